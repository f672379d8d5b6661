package dev.brume;

import java.util.Objects;

/**
 * The name of a calendar: a namespace and a name within it, as for jobs.
 *
 * @param namespace whose jobs may use it
 * @param name how their schedules refer to it
 * @since 0.1.0
 */
public record CalendarName(String namespace, String name) {

    /** Checks both names. */
    public CalendarName {
        Objects.requireNonNull(namespace, "namespace");
        Objects.requireNonNull(name, "name");
        if (!JobName.isName(namespace) || !JobName.isName(name)) {
            throw new IllegalArgumentException(
                    "calendar '" + namespace + "/" + name + "' is not a name (expected " + JobName.RULE + ")");
        }
    }

    /** {@return {@code name}, or {@code namespace/name} outside of the default namespace} */
    @Override
    public String toString() {
        return namespace.equals(JobName.MAIN) ? name : namespace + "/" + name;
    }
}
