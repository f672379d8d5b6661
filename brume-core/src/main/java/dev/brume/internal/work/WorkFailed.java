package dev.brume.internal.work;

import dev.brume.Failure;

/** Thrown when a program or a request did not end well; the message is for people. */
final class WorkFailed extends Exception {
    private static final long serialVersionUID = 1L;

    private final String message;
    private final transient Failure failure;

    WorkFailed(String message, Failure failure) {
        super(message);
        this.message = message;
        this.failure = failure;
    }

    String message() {
        return message;
    }

    Failure failure() {
        return failure;
    }
}
