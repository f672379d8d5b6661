package dev.brume;

import org.jspecify.annotations.Nullable;

/**
 * Thrown when the store did not do what it was asked.
 *
 * @since 0.1.0
 */
public class StoreException extends BrumeException {
    private static final long serialVersionUID = 1L;

    /** The kinds of trouble. */
    public enum Trouble {
        /** Another transaction was in the way; the same step may well succeed now. */
        CONFLICT,
        /** The store cannot be reached. */
        UNREACHABLE,
        /** The connection died while committing: nobody knows whether it did. */
        COMMIT_UNCLEAR,
        /** The store is there but cannot be written: read-only, full, or no rights. */
        NOT_WRITABLE,
        /** The schema is not the one this version works with. */
        SCHEMA,
        /** Anything else, most likely a mistake of ours. */
        OTHER
    }

    private final Trouble trouble;

    /** Creates an exception. */
    public StoreException(Trouble trouble, String message, @Nullable Throwable cause) {
        super(message, cause);
        this.trouble = trouble;
    }

    /** {@return what kind of trouble it is} */
    public Trouble trouble() {
        return trouble;
    }
}
