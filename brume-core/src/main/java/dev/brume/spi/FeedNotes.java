package dev.brume.spi;

import dev.brume.Attempt;
import dev.brume.history.Change;
import dev.brume.history.FeedEvent.Kind;
import dev.brume.history.LeaseKey;
import dev.brume.history.RunRow;
import dev.brume.history.Span;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.function.Supplier;
import java.util.stream.Stream;

/**
 * Collects what a transaction changes, for the feed. Nothing is made of it unless somebody follows. Confined to one thread.
 *
 * @since 0.1.0
 */
public final class FeedNotes {
    private static final int LONGEST_TEXT = 500;

    private final List<Supplier<Stream<FeedNote>>> changes = new ArrayList<>();

    /** Begins without any. */
    public FeedNotes() {
        // Nothing has changed yet.
    }

    /** {@return whether nothing was changed that the feed would have} */
    public boolean isEmpty() {
        return changes.isEmpty();
    }

    /** {@return what was changed, in its order} */
    public List<FeedNote> all() {
        return changes.stream().flatMap(Supplier::get).toList();
    }

    private <T> void add(Collection<T> some, Function<T, FeedNote> note) {
        if (!some.isEmpty()) {
            changes.add(() -> some.stream().map(note));
        }
    }

    /** Live runs were added. */
    public void planned(List<RunRow> runs) {
        add(
                runs,
                run -> ofRun(
                        Kind.PLANNED,
                        run,
                        facts(
                                "planned",
                                run.owed().planned(),
                                "state",
                                run.state(),
                                "origin",
                                run.owed().origin(),
                                "lane",
                                run.lane())));
        started(runs.stream().filter(run -> run.lease().isPresent()).toList());
    }

    /** Runs were leased. */
    public void started(List<RunRow> runs) {
        add(
                runs,
                run -> ofRun(
                        Kind.STARTED,
                        run,
                        facts(
                                "planned", run.owed().planned(),
                                "attempt", run.attempt(),
                                "session", run.leaseKey().session(),
                                "fence", run.leaseKey().fence())));
    }

    private static FeedNote ofRun(Kind kind, RunRow run, Map<String, String> facts) {
        return new FeedNote(kind, Optional.of(run.owed().job()), Optional.empty(), Optional.of(run.id()), facts);
    }

    /** Waiting runs of jobs were let go. */
    public void letGo(Collection<Long> runs) {
        add(runs, run -> new FeedNote(Kind.LET_GO, Optional.empty(), Optional.empty(), Optional.of(run), Map.of()));
    }

    /** Leased runs said how far they are. */
    public void progress(List<ProgressNote> notes) {
        add(
                notes,
                note -> new FeedNote(
                        Kind.PROGRESS,
                        Optional.empty(),
                        Optional.empty(),
                        Optional.of(note.lease().run()),
                        facts("percent", note.percent(), "message", note.message())));
    }

    /** Runs ended while they were leased. */
    public void ended(List<RunEnd> ends, Set<LeaseKey> accepted) {
        add(
                ends.stream().filter(end -> accepted.contains(end.lease())).toList(),
                end -> new FeedNote(
                        Kind.ENDED,
                        Optional.of(end.job()),
                        Optional.empty(),
                        Optional.of(end.lease().run()),
                        facts(
                                "outcome", end.outcome(),
                                "reason", end.reason(),
                                "attempt", end.last().number(),
                                "instance", end.last().instance(),
                                "startedAt", end.last().startedAt(),
                                "endedAt", end.last().endedAt())));
    }

    /** Lines were put on record of runs that nobody held. */
    public void recorded(List<LedgerLine> lines) {
        add(
                lines,
                line -> new FeedNote(
                        Kind.ENDED,
                        Optional.of(line.owed().job()),
                        Optional.empty(),
                        Optional.of(line.run()),
                        facts("planned", line.owed().planned(), "outcome", line.outcome(), "reason", line.reason())));
    }

    /** Leases were given back for another attempt. */
    public void released(List<RunRelease> releases, Set<LeaseKey> accepted) {
        add(releases.stream().filter(each -> accepted.contains(each.lease())).toList(), release -> {
            Optional<Attempt> last = release.attempts().stream().reduce((a, b) -> b);
            return new FeedNote(
                    Kind.ATTEMPT_ENDED,
                    Optional.of(release.job()),
                    Optional.empty(),
                    Optional.of(release.lease().run()),
                    facts(
                            "attempt", last.map(Attempt::number),
                            "instance", last.map(Attempt::instance),
                            "end", last.flatMap(Attempt::end),
                            "state", release.state(),
                            "readyAt", release.readyAt()));
        });
    }

    /** Occurrences were passed over. */
    public void passedOver(List<Span> spans) {
        add(
                spans,
                span -> new FeedNote(
                        Kind.PASSED_OVER,
                        Optional.of(span.job()),
                        Optional.empty(),
                        Optional.empty(),
                        facts(
                                "reason",
                                span.reason(),
                                "first",
                                span.first(),
                                "last",
                                span.last(),
                                "count",
                                span.count())));
    }

    /** Lines were added to the change log. */
    public void changed(List<Change> lines) {
        add(
                lines,
                line -> new FeedNote(
                        Kind.CHANGED,
                        Optional.empty(),
                        line.job(),
                        Optional.empty(),
                        facts("change", line.kind(), "who", line.who(), "text", shortened(line.text()))));
    }

    private static String shortened(String text) {
        return text.length() <= LONGEST_TEXT
                ? text
                : text.substring(0, text.offsetByCodePoints(0, text.codePointCount(0, LONGEST_TEXT - 1))) + "…";
    }

    private static Map<String, String> facts(Object... namesAndValues) {
        Map<String, String> facts = new LinkedHashMap<>();
        for (int i = 0; i < namesAndValues.length; i += 2) {
            Object value = namesAndValues[i + 1];
            Object plain = value instanceof Optional<?> optional ? optional.orElse(null) : value;
            if (plain != null) {
                facts.put((String) namesAndValues[i], plain.toString());
            }
        }
        return facts;
    }
}
