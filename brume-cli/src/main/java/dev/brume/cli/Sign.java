package dev.brume.cli;

import java.nio.charset.StandardCharsets;

/**
 * What the command asks a terminal to do. In texts each is a character that no text has (a noncharacter of Unicode); {@link TerminalStream} alone
 * turns it into an escape sequence, so that whatever else looks like one comes from data.
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

    private static final char FIRST = '\uFDD0';
    private static final Sign[] ALL = values();

    private final byte[] sequence;

    Sign(String sequence) {
        this.sequence = ("\u001b" + sequence).getBytes(StandardCharsets.US_ASCII);
    }

    /** {@return what stands for it in a text} */
    String text() {
        return Character.toString((char) (FIRST + ordinal()));
    }

    /** {@return the escape sequence that a character stands for; nothing if it stands for none} */
    static byte[] sequence(char character) {
        int place = character - FIRST;
        return place >= 0 && place < ALL.length ? ALL[place].sequence.clone() : new byte[0];
    }
}
