package dev.brume.internal.text;

import java.util.regex.Pattern;

/**
 * Checks of texts that are to be stored. They may hold anything but NUL, which PostgreSQL cannot hold, and halves of surrogate pairs, which no
 * encoding can. What people define and order is refused; what work leaves behind is cleaned.
 */
public final class Texts {
    /** A name and a password before a host, be it in a URL or where a driver has taken the host out of one. */
    private static final Pattern BEFORE_HOST = Pattern.compile(
            "(//|jdbc:\\w+:(?:\\w+:)?+|(?<![^\\s'\"(])(?!\\w{1,20}:\\w{0,20}:?//|jdbc:))[^\\s'\"(/@]{1,200}[:/][^\\s'\"]{0,200}@(?=[\\w\\[.-])");

    private static final Pattern BEFORE_HOST_ALONE = Pattern.compile("(//)[^\\s'\"/@]{1,200}@(?=[\\w\\[.-])");
    private static final Pattern NAMED_PASSWORD = Pattern.compile(
            "((?:password|passwd|pwd|secret|token)\\s{0,3}=\\s{0,3})[^&;\\s'\"]+", Pattern.CASE_INSENSITIVE);
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

    /**
     * {@return a text of one line that can be stored: no character that moves a terminal's cursor, or makes a line of its own}
     *
     * @param what it is, for the message
     * @param longest in characters, inclusive
     * @throws IllegalArgumentException if it is longer, or holds what it may not
     */
    public static String line(String what, String text, int longest) {
        checked(what, text, longest);
        for (int i = 0; i < text.length(); i++) {
            char at = text.charAt(i);
            if (isControl(at) || at == '\n' || at == '\t') {
                throw new IllegalArgumentException(what + ": holds " + escape(at) + " at character " + (i + 1)
                        + "; it is one line without control characters");
            }
        }
        return text;
    }

    /**
     * {@return a text in which control characters are seen and do nothing: all but line feed and tab become {@code \u001b} and the like}
     * So do those that change the direction of writing, and line ends of other systems become line feeds.
     */
    public static String visible(String text) {
        StringBuilder seen = null;
        for (int i = 0; i < text.length(); i++) {
            char at = text.charAt(i);
            if (isControl(at) || seen != null) {
                seen = seen == null ? new StringBuilder(text.length() + 16).append(text, 0, i) : seen;
                boolean ofLineEnd = at == '\r' && i + 1 < text.length() && text.charAt(i + 1) == '\n';
                seen.append(ofLineEnd ? "" : isControl(at) ? escape(at) : Character.toString(at));
            }
        }
        return seen == null ? text : seen.toString();
    }

    /**
     * {@return a text without the passwords of URLs in it} They stand before the host, as in {@code //user:password@host}, or behind a name, as in
     * {@code password=...}, as far as the next {@code &}, {@code ;}, quote or white space. Takes time proportional to the text's length.
     */
    public static String withoutPasswords(String text) {
        if (text.indexOf('@') < 0 && text.indexOf('=') < 0) {
            return text;
        }
        String hosts = BEFORE_HOST.matcher(text).replaceAll("$1***@");
        return NAMED_PASSWORD
                .matcher(BEFORE_HOST_ALONE.matcher(hosts).replaceAll("$1***@"))
                .replaceAll("$1***");
    }

    /** {@return whether a character is one to be made visible} Noncharacters are, since some programs give them a meaning. */
    public static boolean isControl(char at) {
        return at < 0x20 && at != '\n' && at != '\t'
                || at >= 0x7F && at < 0xA0
                || at >= 0x2028 && at <= 0x202E
                || at >= 0x2066 && at <= 0x2069
                || at >= 0xFDD0 && at <= 0xFDEF
                || at == 0x061C
                || at == 0x200E
                || at == 0x200F
                || at == 0xFEFF
                || at >= 0xFFFE;
    }

    /** {@return a character as {@code \u001b}} */
    public static String escape(char at) {
        return String.format("\\u%04x", (int) at);
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
