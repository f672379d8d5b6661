package dev.brume;

import java.util.Objects;

/**
 * The name of a calendar: a namespace and a name within it, as for jobs.
 *
 * @param namespace whose jobs may use it
 * @param name how their schedules refer to it
 */
public record CalendarKey(String namespace, String name) {

    /** Checks both names. */
    public CalendarKey {
        Objects.requireNonNull(namespace, "namespace");
        Objects.requireNonNull(name, "name");
        if (!JobKey.isName(namespace) || !JobKey.isName(name)) {
            throw new IllegalArgumentException(
                    "calendar '" + namespace + "/" + name + "' is not a name (expected " + JobKey.RULE + ")");
        }
    }

    /** {@return {@code name}, or {@code namespace/name} outside of the default namespace} */
    @Override
    public String toString() {
        return namespace.equals(JobKey.MAIN) ? name : namespace + "/" + name;
    }
}
