package dev.brume.engine;

import dev.brume.Failure;

/** Thrown when a program or a request did not end well; the message is for people. */
final class WorkFailed extends Exception {
    private static final long serialVersionUID = 1L;

    private final transient Failure failure;

    WorkFailed(String message, Failure failure) {
        super(message);
        this.failure = failure;
    }

    Failure failure() {
        return failure;
    }
}
