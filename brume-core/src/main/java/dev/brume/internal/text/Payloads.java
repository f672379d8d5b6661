package dev.brume.internal.text;

/** Bounds on the payloads of runs. */
public final class Payloads {
    /** The longest, in characters. */
    public static final int LONGEST = 64 * 1024;

    private Payloads() {}

    /**
     * {@return a payload that can be kept}
     *
     * @throws IllegalArgumentException if it is longer than {@value #LONGEST} characters, or holds what cannot be stored
     */
    public static String checked(String text) {
        return Texts.checked("payload", text, LONGEST);
    }
}
