package dev.brume.port;

/** What runs are given. */
public final class Payloads {
    /** The longest, in characters. */
    public static final int LONGEST = 64 * 1024;

    private Payloads() {}

    /**
     * {@return a payload that is not too long to be kept}
     *
     * @throws IllegalArgumentException if it is longer than {@value #LONGEST} characters
     */
    public static String checked(String text) {
        if (text.length() > LONGEST) {
            throw new IllegalArgumentException("payload: " + text.length() + " characters is above " + LONGEST);
        }
        return text;
    }
}
