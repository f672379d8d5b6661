package dev.brume.cli;

import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.definitions.DefinitionFile;
import dev.brume.definitions.ExpressionText;
import dev.brume.definitions.Subject;
import dev.brume.history.AfterEnd;
import dev.brume.history.JobView;
import dev.brume.schedule.Counting;
import dev.brume.schedule.Days;
import dev.brume.schedule.Fold;
import dev.brume.schedule.Gap;
import dev.brume.schedule.Schedule;
import dev.brume.schedule.ScheduleSyntaxException;
import dev.brume.schedule.Zones;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** What to preview or explain: an expression, a job of a file or of the store, or a whole file. */
final class SubjectOptions {
    private static final Duration MEASURED = Duration.ofDays(7);

    @Parameters(
            arity = "0..1",
            paramLabel = "EXPRESSION",
            description = "Five cron fields, or six with the second first; or 'every 90m', 'after end 10m', 'in 10m',"
                    + " '2027-05-14T06:00', 'DTSTART:... RRULE:...'. In quotes.")
    private @Nullable String expression;

    @Option(
            names = {"-f", "--file"},
            paramLabel = "FILE",
            description = "A definition file: all its jobs, or the one that --job names.")
    private @Nullable Path file;

    @Option(names = "--job", paramLabel = "JOB", description = "A job of --file, or else of the store.")
    private @Nullable String job;

    @Option(
            names = "--zone",
            paramLabel = "ZONE",
            description = "The zone the expression is evaluated in; this machine's unless given.")
    private @Nullable String zone;

    @Option(names = "--gap", paramLabel = "after|skip", description = "What becomes of local times that are skipped.")
    private @Nullable Gap gap;

    @Option(
            names = "--fold",
            paramLabel = "first|last|both",
            description = "What becomes of local times that come twice.")
    private @Nullable Fold fold;

    @Option(
            names = "--days",
            paramLabel = "either|both",
            description = "How two restricted day fields combine; default: either.")
    private @Nullable Days days;

    @Mixin
    private WhereOptions store;

    /** {@return whether the zone was not given, but taken from this machine} */
    boolean inMachinesZone() {
        return expression != null && zone == null;
    }

    /** {@return whether a whole file was named} */
    boolean wholeFile() {
        return file != null && job == null;
    }

    List<Subject> subjects(Instant now) {
        if ((expression == null) == (file == null && job == null)) {
            throw new UsageException("expected either an EXPRESSION, or --file FILE, or --job JOB"
                    + " (an expression belongs in quotes: brume preview \"15 4 * * *\")");
        }
        if (expression != null) {
            return List.of(Subject.of(schedule(expression, now), now));
        }
        if (gap != null || fold != null || days != null || zone != null) {
            throw new UsageException("--zone, --gap, --fold and --days belong to an EXPRESSION; a job has its own");
        }
        if (file != null) {
            return defined(file, now);
        }
        return List.of(stored(Objects.requireNonNull(job, "checked above")));
    }

    /** {@return about how long a run of the job of the store has taken of late; empty for all else} */
    Optional<Duration> measured(Instant now) {
        String named = job;
        if (file != null || named == null) {
            return Optional.empty();
        }
        return store.ask(at -> at.usually(key(named), now.minus(MEASURED), now));
    }

    private Schedule schedule(String expression, Instant now) {
        ZoneId where = zone == null ? ZoneId.systemDefault() : Zones.parse(zone);
        try {
            return ExpressionText.parse(
                    expression,
                    where,
                    Optional.ofNullable(gap),
                    Optional.ofNullable(fold),
                    Optional.ofNullable(days),
                    now);
        } catch (ScheduleSyntaxException e) {
            throw e;
        } catch (IllegalArgumentException e) {
            throw new UsageException(
                    String.valueOf(e.getMessage()).replaceAll("\\b(gap|fold|days)(?= and| belong)", "--$1"));
        }
    }

    private List<Subject> defined(Path file, Instant now) {
        List<Job> all = DefinitionFile.read(file).jobs();
        List<Job> jobs = all;
        if (job != null) {
            JobName key = key(job);
            jobs = jobs.stream()
                    .filter(each ->
                            each.name().equals(key) || each.name().name().equals(job))
                    .toList();
            if (jobs.isEmpty()) {
                throw KnownJobs.missing(key, all.stream().map(Job::name).toList(), " in " + file);
            }
        }
        return jobs.stream()
                .map(each -> Subject.of(each.countedFrom(Counting.from(now)), Optional.of(now)))
                .toList();
    }

    private static JobName key(String job) {
        try {
            return JobName.parse(job);
        } catch (IllegalArgumentException e) {
            throw new UsageException(e);
        }
    }

    private Subject stored(String job) {
        JobName key = key(job);
        JobView view = store.look(history -> history.job(key).orElseThrow(() -> KnownJobs.missing(history, key)));
        return Subject.of(view.job(), view.row().afterEnd().flatMap(AfterEnd::due));
    }
}
