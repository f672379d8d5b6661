package dev.brume;

import java.util.Locale;

/**
 * What somebody may do; each role may do what those before it may.
 *
 * @since 0.1.0
 */
public enum Role {
    /** Looks. */
    VIEWER,
    /** Orders runs, one-offs, pauses, cancels. */
    OPERATOR,
    /** Defines jobs, calendars and limits, and drops them. */
    AUTHOR,
    /** Rules over tokens, retention, drains and seals. */
    ADMIN;

    /** {@return its name as people write it, such as {@code viewer}} */
    public String word() {
        return name().toLowerCase(Locale.ROOT);
    }

    /** {@return whether it may do what another role may} */
    public boolean includes(Role other) {
        return compareTo(other) >= 0;
    }
}
