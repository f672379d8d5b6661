package dev.brume.definitions;

/**
 * Something in a file that a definition file names, such as a calendar, that was not understood and left out.
 *
 * @param line of the definition file, where that file is named
 * @param text what, with the other file and its line
 * @since 0.1.0
 */
public record FileWarning(int line, String text) {}
