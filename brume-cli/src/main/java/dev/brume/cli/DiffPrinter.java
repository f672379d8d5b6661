package dev.brume.cli;

import dev.brume.DefinitionSet;
import dev.brume.Rate;
import dev.brume.insight.diff.DefinitionDiff;
import dev.brume.insight.diff.JobDiff;
import dev.brume.insight.diff.Shift;
import dev.brume.schedule.Durations;
import dev.brume.schedule.Occurrence;
import java.io.PrintWriter;
import java.time.Duration;
import java.time.ZoneId;
import java.util.EnumMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** Shows what a file would change. */
final class DiffPrinter {
    private static final long MOST_JOBS = 100;
    private static final int MOST_INSTANTS = 4;
    private static final String NOT_ALLOWED = "! not allowed: ";
    private static final String INDENT = "    ";

    private final LookOptions look;
    private final long most;
    private final PrintWriter out;

    /** Prints in full, or at most 100 jobs of a kind. */
    DiffPrinter(LookOptions look, boolean all, PrintWriter out) {
        this.look = look;
        this.most = all ? Long.MAX_VALUE : MOST_JOBS;
        this.out = out;
    }

    void print(DefinitionSet set, DefinitionDiff diff) {
        Palette palette = look.palette();
        for (DefinitionDiff.CalendarDiff calendar : diff.calendars()) {
            line(
                    calendar.version() == 0 ? "+" : "~",
                    "calendar " + calendar.name(),
                    calendar.version() == 0
                            ? "new"
                            : "version " + calendar.version() + " -> " + (calendar.version() + 1) + "; "
                                    + count(calendar.jobs(), "job") + " go by it");
        }
        for (DefinitionDiff.LimitDiff limit : diff.limits()) {
            line(
                    limit.before() == 0 ? "+" : "~",
                    "limit " + limit.name(),
                    (limit.before() == 0 ? "new, " : places(limit.before(), limit.rateBefore()) + " -> ")
                            + places(limit.after(), limit.rateAfter()));
        }
        for (DefinitionDiff.NoticeDiff notice : diff.notices()) {
            String what = (notice.channel() ? "channel " : "notices ") + notice.name();
            line(notice.kind().sign(), what, notice.kind().words());
        }
        Map<JobDiff.Kind, Long> left = new EnumMap<>(JobDiff.Kind.class);
        movedAlone(diff)
                .forEach((from, jobs) -> line(
                        "~",
                        count(jobs.size(), "job"),
                        "defined by " + from + " so far, otherwise as " + (jobs.size() == 1 ? "it is" : "they are")
                                + " (was the file renamed? source: " + from + " in it keeps them where they belong)"));
        for (JobDiff job : diff.jobs()) {
            if (isMovedAlone(job)) {
                continue;
            }
            if (left.merge(job.kind(), 1L, Long::sum) <= most) {
                print(job);
            }
        }
        left.remove(JobDiff.Kind.UNCHANGED);
        left.forEach((kind, jobs) -> {
            if (jobs > most) {
                out.println(palette.faint(count(jobs - most, "more job") + " " + word(kind) + "; --all prints them"));
            }
        });
        if (!diff.isNone()) {
            out.println();
        }
        diff.notAllowed()
                .forEach(refusal -> Wrap.lines(NOT_ALLOWED + refusal, look.width(), INDENT.length())
                        .forEach(out::println));
        out.println(palette.faint(sum(set, diff)));
    }

    /** Those of which nothing changes but what defines them, by what did so far. */
    private static Map<String, List<JobDiff>> movedAlone(DefinitionDiff diff) {
        return diff.jobs().stream()
                .filter(DiffPrinter::isMovedAlone)
                .collect(
                        Collectors.groupingBy(job -> job.movesFrom().orElseThrow(), TreeMap::new, Collectors.toList()));
    }

    private static boolean isMovedAlone(JobDiff job) {
        return job.movesFrom().isPresent()
                && job.lines().isEmpty()
                && job.shift().filter(shift -> !shift.isNone()).isEmpty();
    }

    private void line(String sign, String what, String text) {
        out.println(look.palette().sign(sign) + " " + look.palette().bold(what) + "  " + text);
    }

    private void print(JobDiff job) {
        switch (job.kind()) {
            case NEW -> {
                line("+", job.name().toString(), "new");
                indented(job.job().scheduleInWords());
            }
            case CHANGED -> {
                line(
                        "~",
                        job.name().toString(),
                        "version " + job.version() + " -> " + (job.version() + 1)
                                + job.movesFrom()
                                        .map(from -> "; defined by " + from + " so far")
                                        .orElse(""));
                job.lines().forEach(text -> {
                    List<String> lines = Wrap.lines(text, look.width() - INDENT.length(), 4);
                    lines.forEach(each ->
                            out.println(INDENT + look.palette().sign(each.substring(0, 1)) + each.substring(1)));
                });
            }
            case GONE -> line("-", job.name().toString(), "no longer in the file (version " + job.version() + ")");
            case UNCHANGED -> {
                // Counted in the sum.
            }
        }
        job.shift().ifPresent(this::print);
    }

    private void indented(String text) {
        Wrap.lines(text, look.width() - INDENT.length(), 0).forEach(each -> out.println(INDENT + each));
    }

    private void print(Shift shift) {
        String over = "in the next " + Durations.about(Duration.between(shift.from(), shift.until())) + ": ";
        if (shift.isNone()) {
            indented(over + count(shift.after(), "occurrence") + ", none of them moves");
            return;
        }
        indented(over + (shift.before() == 0 ? "" : shift.before() + " -> ") + count(shift.after(), "occurrence"));
        moved("-", "no longer", shift.gone());
        moved("+", "in addition", shift.added());
    }

    private void moved(String sign, String words, List<Occurrence> occurrences) {
        if (occurrences.isEmpty()) {
            return;
        }
        out.println(INDENT + look.palette().sign(sign) + " " + words + ":");
        occurrences.stream().limit(MOST_INSTANTS).forEach(each -> out.println(INDENT + INDENT + time(each)));
        if (occurrences.size() > MOST_INSTANTS) {
            out.println(INDENT + INDENT + "and " + (occurrences.size() - MOST_INSTANTS) + " more");
        }
    }

    private String time(Occurrence occurrence) {
        ZoneId viewer = look.viewerZone();
        ZoneId zone = occurrence.zone();
        return Times.local(occurrence.instant(), zone) + " " + Times.name(zone)
                + (zone.getRules().equals(viewer.getRules())
                        ? ""
                        : "  (" + Times.dayAndTime(occurrence.instant(), viewer) + " " + Times.name(viewer) + ")");
    }

    private static String sum(DefinitionSet set, DefinitionDiff diff) {
        String revision = set.revision().isPresent()
                ? "; revision " + set.revision().getAsLong()
                        + (diff.revision().isPresent()
                                ? ", in force: " + diff.revision().getAsLong()
                                : "")
                : "";
        return Stream.of(
                                part(diff, JobDiff.Kind.NEW),
                                part(diff, JobDiff.Kind.CHANGED),
                                part(diff, JobDiff.Kind.GONE),
                                part(diff, JobDiff.Kind.UNCHANGED))
                        .filter(text -> !text.isEmpty())
                        .collect(Collectors.joining(", ", set.source() + ": ", ""))
                + revision;
    }

    private static String part(DefinitionDiff diff, JobDiff.Kind kind) {
        int jobs = diff.of(kind).size();
        return jobs == 0 ? "" : count(jobs, "job") + " " + word(kind);
    }

    private static String word(JobDiff.Kind kind) {
        return LookOptions.lower(kind);
    }

    static String count(long amount, String noun) {
        return amount + " " + noun + (amount == 1 ? "" : "s");
    }

    /** A limit that has a rate alone has more places than anybody takes. */
    private static String places(int places, Optional<Rate> rate) {
        return rate.isPresent() && places == DefinitionSet.HIGHEST_LIMIT
                ? rate.get() + " begin"
                : count(places, "place")
                        + rate.map(starts -> ", " + starts + " begin").orElse("");
    }
}
