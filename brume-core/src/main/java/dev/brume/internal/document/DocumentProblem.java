package dev.brume.internal.document;

/**
 * One thing that is wrong with a document.
 *
 * @param path where it stands: keys and list indexes from the top, joined by {@code /}
 * @param atKey whether the key itself is wrong, not its value
 * @param offset the place within the value's text, from 0
 * @param message what is wrong, what is allowed, what was probably meant
 */
public record DocumentProblem(String path, boolean atKey, int offset, String message) {

    static DocumentProblem at(String path, String message) {
        return new DocumentProblem(path, /* atKey= */ false, 0, message);
    }
}
