package dev.brume.cli;

import dev.brume.definitions.ExportCursor;
import dev.brume.definitions.RecordExport;
import dev.brume.history.History;
import java.io.IOException;
import java.io.PrintWriter;
import java.io.UncheckedIOException;
import java.io.Writer;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Objects;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** Writes out the record. */
@Command(
        name = "export",
        mixinStandardHelpOptions = true,
        description =
                "Writes out the ledger or the change log, line by line in the order of their numbers, as JSON Lines or CSV"
                        + " (RFC 4180). At its end it prints a cursor to standard error: given to the next export, that goes on"
                        + " there, and brings what was late as well.",
        footerHeading = "%nExamples:%n",
        footer = {
            "  brume export ledger --to ledger.jsonl",
            "  brume export ledger --format csv --after \"$(cat cursor)\" --cursor-to cursor --to more.csv",
            "  brume export changes > changes.jsonl"
        })
final class ExportCommand implements Callable<Integer> {
    @Parameters(paramLabel = "ledger|changes", description = "Which record.")
    private RecordExport.What what;

    @Option(
            names = "--format",
            paramLabel = "jsonl|csv",
            defaultValue = "jsonl",
            description = "In which form; default: ${DEFAULT-VALUE}.")
    private RecordExport.Form form;

    @Option(names = "--to", paramLabel = "FILE", description = "Where to; standard output unless given.")
    private @Nullable Path to;

    @Option(names = "--after", paramLabel = "CURSOR", description = "Goes on where an earlier export ended.")
    private @Nullable String after;

    @Option(names = "--cursor-to", paramLabel = "FILE", description = "Writes the cursor to a file as well.")
    private @Nullable Path cursorTo;

    @Mixin
    private WhereOptions options;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() {
        ExportCursor begin = after == null ? ExportCursor.beginning(what.word()) : after(after.strip());
        ExportCursor end = to == null ? print(begin) : write(to, begin);
        if (cursorTo != null) {
            try {
                Files.writeString(cursorTo, end + "\n", StandardCharsets.UTF_8);
            } catch (IOException e) {
                throw UsageException.unwritable("--cursor-to", cursorTo, e);
            }
        }
        spec.commandLine().getErr().println("cursor: " + end);
        return ExitCode.OK;
    }

    private ExportCursor after(String text) {
        try {
            return ExportCursor.parse(text, what.word());
        } catch (IllegalArgumentException e) {
            throw new UsageException("--after: " + e.getMessage());
        }
    }

    private ExportCursor write(Path file, ExportCursor begin) {
        try (Writer out = Files.newBufferedWriter(file)) {
            return options.lookOnce(history -> export(history, begin, out));
        } catch (UncheckedIOException e) {
            throw UsageException.unwritable("--to", file, Objects.requireNonNull(e.getCause()));
        } catch (IOException e) {
            throw UsageException.unwritable("--to", file, e);
        }
    }

    /** What standard output did not take must not count as brought out. */
    private ExportCursor print(ExportCursor begin) {
        PrintWriter out = spec.commandLine().getOut();
        try {
            return options.lookOnce(history -> export(history, begin, new CheckedWriter(out)));
        } catch (UncheckedIOException e) {
            throw new UsageException("the export was not taken to its end; go on from the cursor you had");
        }
    }

    private ExportCursor export(History history, ExportCursor begin, Writer out) {
        try {
            return RecordExport.write(what, form, () -> history, begin, out);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
