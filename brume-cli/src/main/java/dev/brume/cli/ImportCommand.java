package dev.brume.cli;

import dev.brume.definitions.Crontab;
import dev.brume.definitions.DefinitionFile;
import dev.brume.schedule.Zones;
import java.io.IOException;
import java.io.PrintWriter;
import java.nio.charset.CharacterCodingException;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.time.ZoneId;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** Makes a definition file of a crontab. */
@Command(
        name = "import",
        mixinStandardHelpOptions = true,
        description =
                "Makes a definition file of a crontab. Comments right above an entry become its description, lines of"
                        + " environment hold for what is below them, CRON_TZ is the zone. What cannot be brought over is left"
                        + " out, and said.",
        footerHeading =
                "%nExit codes: 0 everything was brought over, 1 something was left out, 2 the file cannot be read.%n%n"
                        + "Examples:%n",
        footer = {
            "  crontab -l > crontab.txt; brume import crontab.txt --zone Europe/Lisbon > jobs.yaml",
            "  brume import /etc/crontab --system --to jobs.yaml && brume check jobs.yaml"
        })
final class ImportCommand implements Callable<Integer> {
    @Parameters(paramLabel = "CRONTAB", description = "A crontab.")
    private Path file;

    @Option(names = "--system", description = "Each entry names a user after its times, as in /etc/crontab.")
    private boolean system;

    @Option(
            names = "--zone",
            paramLabel = "ZONE",
            description = "The zone of its times, unless the file says CRON_TZ; this machine's unless given.")
    private @Nullable String zone;

    @Option(names = "--to", paramLabel = "FILE", description = "Where to; standard output unless given.")
    private @Nullable Path to;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() {
        ZoneId in = zone == null ? ZoneId.systemDefault() : Zones.parse(zone);
        Crontab.Imported imported = Crontab.read(file.getFileName().toString(), text(), system, in);
        DefinitionFile.parse(file.toString(), file.getFileName().toString(), imported.yaml());
        write(imported.yaml());
        PrintWriter err = spec.commandLine().getErr();
        imported.notes()
                .forEach(note -> err.println(
                        file + ":" + note.line() + ": " + (note.leftOut() ? "LEFT OUT " : "NOTE ") + note.text()));
        long leftOut = imported.notes().stream().filter(Crontab.Note::leftOut).count();
        err.println(DiffPrinter.count(imported.jobs(), "job") + " made of " + file
                + (zone == null ? ", in this machine's zone " + in : "")
                + (leftOut == 0 ? "" : "; " + DiffPrinter.count(leftOut, "line") + " left out"));
        return leftOut == 0 ? ExitCode.OK : ExitCode.NOT_FOUND;
    }

    private String text() {
        try {
            return Files.readString(file);
        } catch (NoSuchFileException e) {
            throw new UsageException(file + ": there is no such file");
        } catch (CharacterCodingException e) {
            throw new UsageException(file + ": is not UTF-8");
        } catch (IOException e) {
            throw new UsageException(file + ": cannot be read: " + e.getMessage());
        }
    }

    private void write(String yaml) {
        if (to == null) {
            spec.commandLine().getOut().print(yaml);
            spec.commandLine().getOut().flush();
            return;
        }
        try {
            Files.writeString(to, yaml);
        } catch (IOException e) {
            throw UsageException.unwritable("--to", to, e);
        }
    }
}
