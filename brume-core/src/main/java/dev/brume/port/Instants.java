package dev.brume.port;

import java.time.Instant;

/** The instants that every database can hold, with room for the longest durations on either side. */
public final class Instants {
    private static final Instant FIRST = Instant.parse("1900-01-01T00:00:00Z");
    private static final Instant LAST = Instant.parse("9000-01-01T00:00:00Z");

    private Instants() {}

    /**
     * {@return an instant that can be stored}
     *
     * @param what it is, for the message
     * @throws IllegalArgumentException if it lies before 1900 or not before 9000
     */
    public static Instant checked(String what, Instant instant) {
        if (instant.isBefore(FIRST) || !instant.isBefore(LAST)) {
            throw new IllegalArgumentException(what + ": " + instant + " is outside 1900 to 8999");
        }
        return instant;
    }
}
