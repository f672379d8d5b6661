package dev.brume.http.internal.live;

import java.nio.charset.StandardCharsets;

/** Some events, written at once; whoever wants the same is told the same piece. */
record Piece(byte[] bytes, int events) {
    static Piece of(String text, int events) {
        return new Piece(text.getBytes(StandardCharsets.UTF_8), events);
    }
}
