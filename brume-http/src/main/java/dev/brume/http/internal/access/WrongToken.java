package dev.brume.http.internal.access;

/** Thrown when a token lets nobody in. */
public final class WrongToken extends RuntimeException {
    private static final long serialVersionUID = 1L;

    private final long waitMillis;

    WrongToken(String message, long waitMillis) {
        super(message);
        this.waitMillis = waitMillis;
    }

    /** {@return how long the answer is to wait} */
    public long waitMillis() {
        return waitMillis;
    }

    @Override
    public synchronized Throwable fillInStackTrace() {
        return this;
    }
}
