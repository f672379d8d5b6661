package dev.brume.port;

import dev.brume.Job;

/** What runs are given. */
public final class Payloads {
    private Payloads() {}

    /**
     * {@return a payload that is not too long to be kept}
     *
     * @throws IllegalArgumentException if it is longer than {@value Job#LONGEST_PAYLOAD} characters
     */
    public static String checked(String text) {
        if (text.length() > Job.LONGEST_PAYLOAD) {
            throw new IllegalArgumentException(
                    "payload: " + text.length() + " characters is above " + Job.LONGEST_PAYLOAD);
        }
        return text;
    }
}
