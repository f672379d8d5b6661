package dev.brume.cli;

import java.nio.charset.StandardCharsets;
import java.security.SecureRandom;
import java.util.HexFormat;
import java.util.Optional;

/**
 * What the command asks a terminal to do. In texts it is written as a mark, a word that each process makes up anew, and a letter;
 * {@link TerminalStream} alone turns that into an escape sequence, so that nothing from outside can pass for it.
 */
enum Sign {
    RESET("[0m"),
    BOLD("[1m"),
    FAINT("[2m"),
    RED("[31m"),
    GREEN("[32m"),
    YELLOW("[33m"),
    BLUE("[34m"),
    MAGENTA("[35m"),
    CYAN("[36m"),
    TOP("[H"),
    REST_OF_LINE("[K"),
    REST_OF_SCREEN("[J"),
    EMPTY_SCREEN("[2J");

    /** A noncharacter of Unicode, which no text is meant to have. */
    static final char MARK = '\uFDD0';

    private static final String WORD = HexFormat.of().formatHex(word());
    private static final Sign[] ALL = values();

    /** How long one is in a text, in characters; the word and the letter are ASCII. */
    static final int LENGTH = 1 + WORD.length() + 1;

    private final byte[] sequence;

    Sign(String sequence) {
        this.sequence = ("\u001b" + sequence).getBytes(StandardCharsets.US_ASCII);
    }

    private static byte[] word() {
        byte[] word = new byte[8];
        new SecureRandom().nextBytes(word);
        return word;
    }

    /** {@return what stands for it in a text} */
    String text() {
        return MARK + WORD + (char) ('a' + ordinal());
    }

    /** {@return the escape sequence that what follows a mark stands for; empty if it stands for none} */
    static Optional<byte[]> sequence(CharSequence afterMark) {
        if (afterMark.length() != WORD.length() + 1 || !mayBegin(afterMark.subSequence(0, WORD.length()))) {
            return Optional.empty();
        }
        int place = afterMark.charAt(WORD.length()) - 'a';
        return place >= 0 && place < ALL.length ? Optional.of(ALL[place].sequence.clone()) : Optional.empty();
    }

    /** {@return whether what follows a mark may still become a sign} */
    static boolean mayBegin(CharSequence afterMark) {
        return afterMark.length() <= WORD.length() && WORD.startsWith(afterMark.toString());
    }

    /** {@return how many characters of a text are seen} */
    static int seen(String text) {
        return text.length()
                - LENGTH * (int) text.chars().filter(at -> at == MARK).count();
    }
}
