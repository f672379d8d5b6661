package dev.brume.cli.desk;

/** Thrown when a server answers something that is not understood. */
public final class Garbled extends RuntimeException {
    private static final long serialVersionUID = 1L;
    private static final int SHOWN = 200;

    private Garbled(String message) {
        super(message);
    }

    static Garbled of(String expected, Object found) {
        String text = String.valueOf(found);
        return new Garbled("expected " + expected + ", found "
                + (text.length() > SHOWN ? text.substring(0, SHOWN) + "..." : text));
    }
}
