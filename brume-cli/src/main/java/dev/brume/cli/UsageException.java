package dev.brume.cli;

/** Thrown when what the user gave is wrong; the message says what, and the way out. */
final class UsageException extends RuntimeException {
    private static final long serialVersionUID = 1L;

    UsageException(String message) {
        super(message);
    }

    /** What the library had to say of a value. */
    UsageException(IllegalArgumentException wrong) {
        super(wrong.getMessage());
    }
}
