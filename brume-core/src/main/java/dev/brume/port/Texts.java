package dev.brume.port;

/**
 * What a text may hold that is to be stored: anything but NUL, which PostgreSQL cannot hold, and halves of surrogate pairs, which no
 * encoding can. What people define and order is refused; what work leaves behind is cleaned.
 */
public final class Texts {
    private static final char REPLACEMENT = '\uFFFD';

    private Texts() {}

    /**
     * {@return a text that can be stored}
     *
     * @param what it is, for the message
     * @param longest in characters, inclusive
     * @throws IllegalArgumentException if it is longer, or holds what cannot be stored
     */
    public static String checked(String what, String text, int longest) {
        if (text.length() > longest) {
            throw new IllegalArgumentException(what + ": " + text.length() + " characters is above " + longest);
        }
        int bad = firstBad(text, 0);
        if (bad >= 0) {
            throw new IllegalArgumentException(what + ": holds "
                    + (text.charAt(bad) == 0 ? "NUL" : "half of a surrogate pair") + " at character " + (bad + 1)
                    + ", which cannot be stored");
        }
        return text;
    }

    /** {@return a text with U+FFFD in place of what cannot be stored; the same text if it holds nothing of the kind} */
    public static String clean(String text) {
        int bad = firstBad(text, 0);
        if (bad < 0) {
            return text;
        }
        char[] characters = text.toCharArray();
        while (bad >= 0) {
            characters[bad] = REPLACEMENT;
            bad = firstBad(text, bad + 1);
        }
        return new String(characters);
    }

    private static int firstBad(String text, int from) {
        for (int i = from; i < text.length(); i++) {
            char at = text.charAt(i);
            if (at == 0 || Character.isLowSurrogate(at)) {
                return i;
            }
            if (Character.isHighSurrogate(at)) {
                if (i + 1 == text.length() || !Character.isLowSurrogate(text.charAt(i + 1))) {
                    return i;
                }
                i++;
            }
        }
        return -1;
    }
}
