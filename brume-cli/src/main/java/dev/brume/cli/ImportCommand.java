package dev.brume.cli;

import dev.brume.definitions.Crontab;
import dev.brume.definitions.DefinitionFile;
import dev.brume.schedule.Zones;
import java.io.IOException;
import java.io.PrintWriter;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.Callable;
import java.util.stream.Stream;
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
                "Makes a definition file of crontabs. Comments right above an entry become its description, lines of"
                        + " environment hold for what is below them, CRON_TZ is the zone. What cannot be brought over is left"
                        + " out, and said.",
        footerHeading =
                "%nExit codes: 0 everything was brought over, 1 something was left out, 2 the file cannot be read.%n%n"
                        + "Examples:%n",
        footer = {
            "  crontab -l > crontab.txt; brume import crontab.txt --zone Europe/Lisbon > jobs.yaml",
            "  crontab -l | brume import - --prefix harbour-",
            "  brume import /etc/crontab /etc/cron.d --to jobs.yaml && brume check jobs.yaml"
        })
final class ImportCommand implements Callable<Integer> {
    @Parameters(
            paramLabel = "CRONTAB",
            arity = "1..*",
            description = "Crontabs, folders of such (as /etc/cron.d), or - for standard input.")
    private List<Path> files;

    @Option(
            names = "--form",
            paramLabel = "FORM",
            defaultValue = "detected",
            description =
                    "system: each entry names a user after its times, as in /etc/crontab; own: none does; detected: told"
                            + " of each file by its entries. Default: ${DEFAULT-VALUE}.")
    private Crontab.Form form;

    @Option(
            names = "--prefix",
            paramLabel = "TEXT",
            defaultValue = "",
            description = "Stands before the name of each job.")
    private String prefix;

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
        List<Crontab.Source> sources = new ArrayList<>();
        files.forEach(file -> sources.addAll(sources(file)));
        String what = sources.size() == 1 ? sources.get(0).name() : sources.size() + " crontabs";
        Crontab.Imported imported = Crontab.read(sources, form, in, prefix);
        DefinitionFile.parse(what, what, imported.yaml());
        write(imported.yaml());
        PrintWriter err = spec.commandLine().getErr();
        imported.notes()
                .forEach(note -> err.println(note.file() + ":" + note.line() + ": "
                        + (note.leftOut() ? "LEFT OUT " : "NOTE ") + note.text()));
        long leftOut = imported.notes().stream().filter(Crontab.Note::leftOut).count();
        err.println(DiffPrinter.count(imported.jobs(), "job") + " made of " + what
                + (zone == null ? ", in this machine's zone " + in : "")
                + (leftOut == 0 ? "" : "; " + DiffPrinter.count(leftOut, "line") + " left out"));
        return leftOut == 0 ? ExitCode.OK : ExitCode.NOT_FOUND;
    }

    /** In a folder, what editors and packages leave behind is passed over, as cron does. */
    private static List<Crontab.Source> sources(Path file) {
        if (!Files.isDirectory(file)) {
            boolean isInput = file.toString().equals("-");
            return List.of(new Crontab.Source(isInput ? "standard-input" : file.toString(), text(file, isInput)));
        }
        try (Stream<Path> inside = Files.list(file)) {
            return inside.filter(Files::isRegularFile)
                    .filter(each ->
                            !each.getFileName().toString().matches("\\..*|.*~|.*\\.dpkg-.*|.*\\.(bak|orig|rpmsave)"))
                    .sorted()
                    .map(each -> new Crontab.Source(each.toString(), text(each, /* isInput= */ false)))
                    .toList();
        } catch (IOException e) {
            throw new UsageException(file + ": cannot be read: " + e.getMessage());
        }
    }

    private static String text(Path file, boolean isInput) {
        try {
            return isInput ? new String(System.in.readAllBytes(), StandardCharsets.UTF_8) : Files.readString(file);
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
