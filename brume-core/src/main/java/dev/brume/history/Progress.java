package dev.brume.history;

/**
 * How far a running run says that it is.
 *
 * @param percent 0 to 100
 * @param message what it is at, may be empty
 * @since 0.1.0
 */
public record Progress(int percent, String message) {
    @Override
    public String toString() {
        return message.isEmpty() ? percent + "%" : percent + "% " + message;
    }
}
