package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.definitions.DefinitionFile;
import dev.brume.ical.CalendarDays;
import dev.brume.ical.CalendarFile;
import dev.brume.schedule.ScheduleSyntaxException;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.TimeUnit;
import java.util.stream.Stream;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.condition.EnabledIfSystemProperty;
import org.junit.jupiter.api.io.TempDir;

/** What others wrote: {@code mvn verify -Pforeign -pl brume-tests -am} fetches it, and keeps it out of the checkout's history. */
@EnabledIfSystemProperty(named = "brume.foreign", matches = "true")
class ForeignMaterialTest {
    private static final Path SCRIPTS = Path.of("src/foreign");
    private static final Path FOLDER = Path.of("target/foreign").toAbsolutePath();
    private static final LocalDate FROM = LocalDate.of(1990, 1, 1);
    private static final LocalDate UNTIL = LocalDate.of(2040, 1, 1);

    @TempDir
    private Path folder;

    private record Printed(int exitCode, List<String> lines) {}

    @BeforeAll
    static void fetch() throws Exception {
        Printed fetched = run(Path.of("."), "sh", SCRIPTS.resolve("fetch.sh").toString(), FOLDER.toString());
        assertThat(fetched.exitCode).as(String.join("\n", fetched.lines)).isZero();
    }

    private static Printed run(Path folder, String... command) throws Exception {
        Path printed = Files.createTempFile("foreign", ".txt");
        ProcessBuilder builder = new ProcessBuilder(command)
                .directory(folder.toFile())
                .redirectErrorStream(false)
                .redirectError(ProcessBuilder.Redirect.DISCARD)
                .redirectOutput(printed.toFile());
        builder.environment()
                .put(
                        "PYTHONPATH",
                        FOLDER.resolve("python/usr/lib/python3/dist-packages").toString());
        Process process = builder.start();
        assertThat(process.waitFor(20, TimeUnit.MINUTES))
                .as(List.of(command).toString())
                .isTrue();
        return new Printed(process.exitValue(), Files.readAllLines(printed, StandardCharsets.UTF_8));
    }

    private static Printed python(String script, String... arguments) throws Exception {
        List<String> command = new ArrayList<>(
                List.of("python3", SCRIPTS.resolve(script).toAbsolutePath().toString()));
        command.addAll(Arrays.asList(arguments));
        return run(Path.of("."), command.toArray(String[]::new));
    }

    private static List<Path> files(Path root, String ending) throws IOException {
        try (Stream<Path> all = Files.walk(root)) {
            return all.filter(
                            path -> Files.isRegularFile(path) && path.toString().endsWith(ending))
                    .sorted()
                    .toList();
        }
    }

    private static List<String> days(CalendarDays read) {
        return read.days().stream()
                .filter(day -> !day.isBefore(FROM) && day.isBefore(UNTIL))
                .map(LocalDate::toString)
                .toList();
    }

    /** Each is understood as the library that expands recurring events understands it, or refused with its line. */
    @Test
    void theTestCalendarsOfCalendarLibrariesAreUnderstoodOrRefusedWithTheirLine() throws Exception {
        int compared = 0;
        List<Path> calendars = files(FOLDER.resolve("calendars"), ".ics");
        for (Path file : calendars) {
            Optional<CalendarDays> read = read(file);
            Printed expected = python("expand.py", file.toString(), FROM.toString(), UNTIL.toString());
            if (read.isPresent() && expected.exitCode == 0) {
                assertThat(days(read.get())).as(file.toString()).isEqualTo(expected.lines);
                compared++;
            }
        }
        assertThat(calendars).hasSizeGreaterThan(40);
        assertThat(compared).isGreaterThan(20);
    }

    private static Optional<CalendarDays> read(Path file) throws IOException {
        try {
            CalendarDays read = CalendarFile.read(file, ZoneOffset.UTC);
            read.warnings()
                    .forEach(warning ->
                            assertThat(warning.toString()).as(file.toString()).contains("line "));
            return Optional.of(read);
        } catch (ScheduleSyntaxException refused) {
            assertThat(refused.getMessage()).as(file.toString()).containsPattern("line \\d+|DTSTART|RRULE");
            return Optional.empty();
        }
    }

    @Test
    void theHolidaysOfManyCountriesAreTheDaysThatWereWritten() throws Exception {
        Printed written = python("write_holidays.py", folder.toString(), "2000", "2040");
        assertThat(written.exitCode).isZero();
        List<Path> calendars = files(folder, ".ics");
        assertThat(calendars).hasSizeGreaterThan(60);
        for (Path file : calendars) {
            CalendarDays read = CalendarFile.read(file, ZoneOffset.UTC);
            List<String> expected = Files.readAllLines(Path.of(file.toString().replace(".ics", ".days")));
            assertThat(read.days()).as(file.toString()).map(LocalDate::toString).containsExactlyElementsOf(expected);
            assertThat(read.warnings()).as(file.toString()).isEmpty();
        }
    }

    @Test
    void theSystemCrontabsOfTwoDozenPackagesBecomeDefinitions() throws Exception {
        List<Path> crontabs = files(FOLDER.resolve("crontabs"), "");
        assertThat(crontabs).hasSizeGreaterThanOrEqualTo(24);
        for (Path crontab : crontabs) {
            Path made = folder.resolve(crontab.getFileName() + ".yaml");
            BrumeProcess.Result result = BrumeProcess.run(
                    folder, "import", crontab.toString(), "--zone", "Europe/Lisbon", "--to", made.toString());
            assertThat(result.exitCode()).as(result.err()).isLessThan(2);
            assertThat(result.exitCode() == 1)
                    .as(result.err())
                    .isEqualTo(result.err().contains("LEFT OUT"));
            long entries = Files.readAllLines(crontab).stream()
                    .filter(line ->
                            line.matches("\\s*([0-9*@]).*") && !line.strip().startsWith("@reboot"))
                    .count();
            assertThat(DefinitionFile.read(made).jobs()).as(crontab.toString()).hasSize((int) entries);
        }
    }

    @Test
    void anotherValidatorAgreesWithTheSchema() throws Exception {
        Path schema = Files.writeString(folder.resolve("schema.json"), DefinitionFile.schema());
        Path right = Files.writeString(folder.resolve("right.yaml"), """
                zone: Atlantic/Azores
                jobs:
                  tide-tables:
                    when: [{cron: "15 4 * * *"}, {every: 90m, window: "08:00-18:00"}, {once: 2027-05-14T06:00}]
                    work: {http: {url: "https://board.merrow.example/tides"}}
                    ifFailed: {attempts: 4, waits: [30s, 5m]}
                    timeLimit: 24.5s
                """);
        Path wrong = Files.writeString(
                folder.resolve("wrong.yaml"), "jobs: {x: {when: {cron: '0 9 *'}, work: {handler: y}}}");
        Printed printed = python("validate.py", schema.toString(), right.toString(), wrong.toString());

        assertThat(printed.exitCode).isZero();
        assertThat(printed.lines.get(0)).isEqualTo("valid");
        assertThat(printed.lines.get(1)).startsWith("invalid: ");
    }
}
