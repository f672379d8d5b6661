package dev.brume.simulator;

import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.history.Span;
import dev.brume.schedule.Occurrence;
import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * Holds what every version of a definition owed while it was in force against what became of it: a run, a ledger line, or a
 * place in one span.
 */
final class Accounts {
    private final Books books;

    Accounts(Books books) {
        this.books = books;
    }

    /**
     * Checks one job up to its cursor.
     *
     * @param cursor up to where everything is decided, inclusive
     */
    void check(long job, Instant cursor) {
        Map<Span, Long> counts = new HashMap<>();
        Instant end = books.dropped.getOrDefault(job, cursor);
        var versions = books.versionsOf(job);
        versions.forEach((number, version) -> {
            Instant until = Optional.ofNullable(versions.higherEntry(number))
                    .map(next -> next.getValue().after())
                    .orElse(end);
            check(job, number, version.job(), version.after(), until, counts);
        });
        books.spans.stream()
                .filter(span -> span.job() == job && span.isCounted())
                .forEach(span -> {
                    long count = counts.getOrDefault(span, 0L);
                    require(span.count() == count, span + " counts " + span.count() + " of " + count + " occurrences");
                });
    }

    private void check(long job, int number, Job definition, Instant after, Instant until, Map<Span, Long> counts) {
        Optional<Occurrence> next = definition.next(after);
        while (next.isPresent() && !next.get().instant().isAfter(until)) {
            Instant instant = next.get().instant();
            boolean line = books.owed.containsKey(new Books.Debt(job, instant, ""))
                    || definition.onEachInstance() && isOwedByAny(job, instant);
            List<Span> around = books.spans.stream()
                    .filter(span -> span.job() == job)
                    .filter(span -> !instant.isBefore(span.from()) && instant.isBefore(span.until()))
                    .toList();
            require(
                    (line ? 1 : 0) + around.size() == 1,
                    definition.name() + " version " + number + " at " + instant + " is " + (line ? "a run" : "no run")
                            + " and lies in " + around.size() + " spans");
            around.forEach(span -> counts.merge(span, 1L, Long::sum));
            next = definition.next(instant);
        }
    }

    /** What each instance owes has the instance's name for a slot; orders have slots that are no names. */
    private boolean isOwedByAny(long job, Instant planned) {
        return books.owed.keySet().stream()
                .anyMatch(debt -> debt.job() == job && debt.planned().equals(planned) && JobName.isName(debt.slot()));
    }

    private static void require(boolean holds, String what) {
        if (!holds) {
            throw new InvariantChecker.Violation("I4", what);
        }
    }
}
