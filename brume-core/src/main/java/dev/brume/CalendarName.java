package dev.brume;

import java.util.Objects;

/**
 * The name of a calendar: a namespace and a name within it, as for jobs.
 *
 * @param namespace whose jobs may use it; empty if it is the cluster's, so that all may
 * @param name how their schedules refer to it
 * @since 0.1.0
 */
public record CalendarName(String namespace, String name) {

    /** Checks both names. */
    public CalendarName {
        Objects.requireNonNull(namespace, "namespace");
        Objects.requireNonNull(name, "name");
        if (!namespace.isEmpty() && !JobName.isName(namespace) || !JobName.isName(name)) {
            throw new IllegalArgumentException(
                    "calendar '" + namespace + "/" + name + "' is not a name (expected " + JobName.RULE + ")");
        }
    }

    /**
     * {@return the calendar that is meant}
     *
     * @param namespace in which it is written
     * @param reference {@code name} for one of that namespace, {@code /name} for the cluster's
     * @throws IllegalArgumentException if it is no such reference
     */
    public static CalendarName in(String namespace, String reference) {
        return reference.startsWith("/")
                ? new CalendarName("", reference.substring(1))
                : new CalendarName(namespace, reference);
    }

    /** {@return whether a text is {@code name} or {@code /name}} */
    public static boolean isReference(String text) {
        return JobName.isName(text.startsWith("/") ? text.substring(1) : text);
    }

    /** {@return how schedules of its namespace refer to it: {@code name}, or {@code /name} for the cluster's} */
    public String reference() {
        return namespace.isEmpty() ? "/" + name : name;
    }

    /** {@return {@code name}, {@code namespace/name} outside of the main namespace, or {@code /name} for the cluster's} */
    @Override
    public String toString() {
        return namespace.equals(JobName.MAIN) ? name : namespace + "/" + name;
    }
}
