package dev.brume.definitions;

/**
 * One thing that is wrong with a definition file.
 *
 * @param file its name as given
 * @param line counted from 1
 * @param column counted from 1
 * @param message what is wrong, what is allowed, what was probably meant
 * @since 0.1.0
 */
public record DefinitionProblem(String file, int line, int column, String message) {

    /** {@return {@code file:line:column: message}} */
    @Override
    public String toString() {
        return file + ":" + line + ":" + column + ": " + message;
    }
}
