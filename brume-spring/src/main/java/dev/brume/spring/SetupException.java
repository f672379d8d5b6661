package dev.brume.spring;

import java.util.function.Supplier;

/** Thrown when an application is set up so that Brume cannot work in it: what is wrong, and the way out. */
final class SetupException extends IllegalStateException {
    private static final long serialVersionUID = 1L;

    private final String action;

    SetupException(String problem, String action) {
        super(problem + " (" + action + ")");
        this.action = action;
    }

    /**
     * {@return what was read of a property}
     *
     * @throws SetupException saying why it was refused
     */
    static <T> T unlessRefused(Supplier<T> reading) {
        try {
            return reading.get();
        } catch (IllegalArgumentException e) {
            throw new SetupException(String.valueOf(e.getMessage()), "correct that property");
        }
    }

    String problem() {
        String message = String.valueOf(getMessage());
        return message.substring(0, message.length() - action.length() - " ()".length());
    }

    String action() {
        return action;
    }
}
