package dev.brume.http.internal.access;

import dev.brume.http.internal.web.Problem;
import dev.brume.http.internal.web.Reply;

/** Thrown when a token lets nobody in. */
public final class WrongToken extends RuntimeException {
    private static final long serialVersionUID = 1L;

    private final long waitMillis;
    private final transient Reply reply;

    WrongToken(String message, long waitMillis) {
        this(
                message,
                waitMillis,
                new Problem(Problem.Kind.WHO_IS_IT, message)
                        .with("WWW-Authenticate", "Bearer realm=\"brume\", error=\"invalid_token\"")
                        .reply());
    }

    private WrongToken(String message, long waitMillis, Reply reply) {
        super(message);
        this.waitMillis = waitMillis;
        this.reply = reply;
    }

    /** {@return the same, answered with a page} */
    public WrongToken saying(Reply page) {
        return new WrongToken(String.valueOf(getMessage()), waitMillis, page);
    }

    /** {@return the answer} */
    public Reply reply() {
        return reply;
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
