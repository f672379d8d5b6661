package dev.brume.http.internal.console;

import dev.brume.Outcome;
import dev.brume.insight.board.Scale;
import dev.brume.insight.tally.DeadlineTally;
import dev.brume.insight.tally.JobTally;
import dev.brume.insight.tally.Verdict;
import dev.brume.schedule.Occurrence;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;

/**
 * What a person at three in the morning wants to know first: whether all that was owed is accounted for, what of it went wrong, and what comes
 * next.
 *
 * @param verdict the first part of it
 * @param well whether nothing needs a person
 * @param wrongs what does, by how many
 * @param next what comes next; empty if nothing does
 * @param at up to when it is known
 */
public record Sentence(String verdict, boolean well, List<Wrong> wrongs, Optional<Next> next, Instant at) {
    /** Some that went wrong, and where they are listed. */
    public record Wrong(String text, String path) {}

    /** What comes next. */
    public record Next(String job, String path, String when, Instant at) {}

    /** For so long nobody need have decided about what has become due. */
    private static final Duration A_MOMENT = Duration.ofSeconds(30);

    /** {@return what is said of the last day} */
    static Sentence of(Collection<Boards.Line> lines, Scale day, Frame frame) {
        List<JobTally> tallies = lines.stream().map(line -> line.row().tally()).toList();
        long owed = tallies.stream().mapToLong(JobTally::expected).sum();
        long unexplained = sum(tallies, Verdict.UNEXPLAINED);
        long undecided = tallies.stream()
                .filter(tally -> tally.listed(Verdict.NOT_YET).stream()
                        .anyMatch(line -> line.planned().isBefore(frame.now().minus(A_MOMENT))))
                .mapToLong(tally -> tally.count(Verdict.NOT_YET))
                .sum();
        String period = "the last 24 hours";
        String verdict;
        if (owed == 0) {
            verdict = "Nothing was owed in " + period;
        } else if (unexplained == 0 && undecided > 0) {
            verdict = number(owed - undecided) + " of the " + number(owed) + " occurrences of " + period
                    + " are accounted for, and nobody has decided yet about " + number(undecided);
        } else if (unexplained == 0) {
            verdict = (owed == 1 ? "The one occurrence" : "All " + number(owed) + " occurrences") + " of " + period
                    + (owed == 1 ? " is" : " are") + " accounted for";
        } else {
            verdict = number(unexplained) + " of the " + number(owed) + " occurrences of " + period
                    + (unexplained == 1 ? " is" : " are") + " unexplained";
        }
        String since = "&from=" + day.from();
        List<Wrong> wrongs = new ArrayList<>();
        wrong(wrongs, sum(tallies, Verdict.MISSED), "missed", "/tally");
        wrong(wrongs, outcome(tallies, Outcome.FAILED), "failed", "/runs?outcome=FAILED" + since);
        wrong(wrongs, outcome(tallies, Outcome.TIMED_OUT), "timed out", "/runs?outcome=TIMED_OUT" + since);
        wrong(wrongs, outcome(tallies, Outcome.LOST), "lost", "/runs?outcome=LOST" + since);
        wrong(wrongs, sum(tallies, Verdict.LATE), "late", "/tally");
        long missed = lines.stream()
                .flatMap(line -> line.deadlines().stream())
                .mapToLong(DeadlineTally::missed)
                .sum();
        wrong(wrongs, missed, missed == 1 ? "deadline missed" : "deadlines missed", "/tally");
        Optional<Next> next = lines.stream()
                .filter(line -> !line.paused())
                .flatMap(line -> next(line, frame.now()).map(at -> Map.entry(at, line)).stream())
                .min(Map.Entry.comparingByKey(Comparator.naturalOrder()))
                .map(entry -> new Next(
                        entry.getValue().name().name(),
                        Frame.jobPath(entry.getValue().name()),
                        frame.distance(entry.getKey()),
                        entry.getKey()));
        return new Sentence(verdict, unexplained == 0 && undecided == 0 && wrongs.isEmpty(), wrongs, next, day.now());
    }

    /** What was to come when the board was laid out may have come meanwhile. */
    private static Optional<Instant> next(Boards.Line line, Instant now) {
        return line.next()
                .flatMap(at -> at.isBefore(now) ? line.job().next(now).map(Occurrence::instant) : Optional.of(at));
    }

    private static long sum(List<JobTally> tallies, Verdict verdict) {
        return tallies.stream().mapToLong(tally -> tally.count(verdict)).sum();
    }

    private static long outcome(List<JobTally> tallies, Outcome outcome) {
        return tallies.stream().mapToLong(tally -> tally.began(outcome)).sum();
    }

    private static void wrong(List<Wrong> wrongs, long count, String word, String path) {
        if (count > 0) {
            wrongs.add(new Wrong(number(count) + " " + word, path));
        }
    }

    static String number(long count) {
        return String.format(Locale.ENGLISH, "%,d", count);
    }
}
