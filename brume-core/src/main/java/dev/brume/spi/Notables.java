package dev.brume.spi;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.history.LeaseKey;
import dev.brume.history.Span;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.function.Supplier;
import java.util.stream.Stream;

/**
 * Collects what happens in a transaction that somebody may want told. Nothing is made of it unless it is wanted. Confined to one thread.
 *
 * @since 0.1.0
 */
public final class Notables {
    private static final int LONGEST_ERROR = 300;

    private final List<Supplier<Stream<Notable>>> all = new ArrayList<>();

    /** Begins without any. */
    public Notables() {
        // Nothing has happened yet.
    }

    /** {@return whether nothing happened that anybody could want told} */
    public boolean isEmpty() {
        return all.isEmpty();
    }

    /** {@return what happened of some kinds, in its order} */
    public List<Notable> of(Set<Notable.Kind> wanted) {
        return all.stream()
                .flatMap(Supplier::get)
                .filter(notable -> wanted.contains(notable.kind()))
                .toList();
    }

    private <T> void add(Collection<T> some, Function<T, Stream<Notable>> notable) {
        if (!some.isEmpty()) {
            all.add(() -> some.stream().flatMap(notable));
        }
    }

    /** Runs ended while they were leased. */
    public void ended(List<RunEnd> ends, Set<LeaseKey> accepted) {
        add(
                ends.stream()
                        .filter(end -> accepted.contains(end.lease()))
                        .filter(end -> end.outcome() == Outcome.SUCCEEDED ? end.notable() : isTold(end.outcome()))
                        .toList(),
                end -> Notable.Kind.of(end.outcome()).stream()
                        .map(kind -> of(
                                kind,
                                end.job(),
                                Optional.of(end.lease().run()),
                                Optional.of(end.planned()),
                                Optional.of(end.last()),
                                end.reason().map(Reason::name))));
    }

    private static boolean isTold(Outcome outcome) {
        return Notable.Kind.of(outcome).isPresent();
    }

    /** Lines were put on record of runs that nobody held. */
    public void recorded(List<LedgerLine> lines) {
        add(
                lines.stream()
                        .filter(line -> line.outcome() != Outcome.SUCCEEDED && isTold(line.outcome()))
                        .filter(line -> !Notable.isWished(line.reason()))
                        .toList(),
                line -> Notable.Kind.of(line.outcome()).stream()
                        .map(kind -> of(
                                kind,
                                line.owed().job(),
                                Optional.of(line.run()),
                                Optional.of(line.owed().planned()),
                                last(line.attempts()),
                                line.reason().map(Reason::name))));
    }

    private static Optional<Attempt> last(List<Attempt> attempts) {
        return attempts.stream().reduce((a, b) -> b);
    }

    /** Leases were given back for another attempt. */
    public void released(List<RunRelease> releases, Set<LeaseKey> accepted) {
        add(releases.stream().filter(each -> accepted.contains(each.lease())).toList(), release -> {
            Optional<Attempt> last = last(release.attempts());
            Optional<Notable.Kind> kind = last.flatMap(Attempt::end).flatMap(end -> switch (end) {
                case FAILED, TIMED_OUT -> Optional.of(Notable.Kind.ATTEMPT_FAILED);
                case LOST -> Optional.of(Notable.Kind.TAKEN_OVER);
                default -> Optional.empty();
            });
            return kind.stream()
                    .map(which -> of(
                            which,
                            release.job(),
                            Optional.of(release.lease().run()),
                            Optional.empty(),
                            last,
                            last.flatMap(Attempt::end).map(AttemptEnd::name)));
        });
    }

    /** Occurrences were passed over. */
    public void passedOver(List<Span> spans) {
        add(
                spans.stream()
                        .filter(span -> !Notable.isWished(Reason.named(span.reason())))
                        .toList(),
                span -> Stream.of(new Notable(
                        Notable.Kind.PASSED_OVER,
                        span.job(),
                        Optional.empty(),
                        Optional.of(span.first()),
                        0,
                        Optional.empty(),
                        Optional.of(span.last()),
                        span.count(),
                        -1,
                        Optional.of(span.reason()),
                        Optional.empty())));
    }

    private static Notable of(
            Notable.Kind kind,
            long job,
            Optional<Long> run,
            Optional<Instant> planned,
            Optional<Attempt> last,
            Optional<String> reason) {
        Optional<Instant> ended = last.flatMap(Attempt::endedAt);
        long took = ended.map(at -> Duration.between(last.get().startedAt(), at).toMillis())
                .orElse(-1L);
        return new Notable(
                kind,
                job,
                run,
                planned,
                last.map(Attempt::number).orElse(0),
                last.map(Attempt::instance),
                ended,
                1,
                took,
                reason,
                last.flatMap(Attempt::error).map(Notables::firstLine));
    }

    private static String firstLine(String text) {
        String line = text.lines().findFirst().orElse("");
        return line.length() <= LONGEST_ERROR
                ? line
                : line.substring(0, line.offsetByCodePoints(0, line.codePointCount(0, LONGEST_ERROR - 1))) + "…";
    }
}
