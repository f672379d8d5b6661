package dev.brume.cli;

import dev.brume.schedule.ScheduleProblem;
import dev.brume.schedule.ScheduleSyntaxException;
import java.io.IOException;
import java.nio.file.AccessDeniedException;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.util.stream.Collectors;

/** Thrown when what the user gave is wrong; the message says what, and the way out. */
final class UsageException extends RuntimeException {
    private static final long serialVersionUID = 1L;

    UsageException(String message) {
        super(message);
    }

    /** What the library had to say of a value. */
    UsageException(IllegalArgumentException wrong) {
        super(sentence(wrong));
    }

    /** {@return what to throw when a file that was asked for cannot be written} */
    static UsageException unwritable(String option, Path file, IOException why) {
        Path folder = file.toAbsolutePath().getParent();
        String reason = why instanceof NoSuchFileException && folder != null && !Files.isDirectory(folder)
                ? "there is no folder " + folder
                : why instanceof AccessDeniedException
                        ? "it, or its folder, is not yours to write"
                        : Files.isDirectory(file) ? "it is a folder" : String.valueOf(why.getMessage());
        return new UsageException(option + " " + file + " cannot be written: " + reason);
    }

    static String sentence(IllegalArgumentException wrong) {
        return wrong instanceof ScheduleSyntaxException syntax
                ? syntax.problems().stream()
                        .map(ScheduleProblem::sentenceWithoutField)
                        .collect(Collectors.joining("; "))
                : String.valueOf(wrong.getMessage());
    }
}
