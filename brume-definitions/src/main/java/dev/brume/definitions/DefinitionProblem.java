package dev.brume.definitions;

/**
 * One thing that is wrong with a definition file.
 *
 * @param file its name as given
 * @param line counted from 1
 * @param column counted from 1
 * @param pointer to what is wrong within the document, as RFC 6901 has it; empty for the whole
 * @param message what is wrong, what is allowed, what was probably meant
 * @since 0.1.0
 */
public record DefinitionProblem(String file, int line, int column, String pointer, String message) {

    /** {@return {@code file:line:column: message}} */
    @Override
    public String toString() {
        return file + ":" + line + ":" + column + ": " + message;
    }
}
