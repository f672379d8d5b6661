package dev.brume.http.internal.console;

import dev.brume.Brume;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.StoreException;
import dev.brume.history.FeedPosition;
import dev.brume.history.History;
import dev.brume.history.JobAccount;
import dev.brume.history.JobFilter;
import dev.brume.history.JobView;
import dev.brume.history.Timeframe;
import dev.brume.insight.board.Board;
import dev.brume.insight.board.BoardCell;
import dev.brume.insight.board.BoardRow;
import dev.brume.insight.board.Scale;
import dev.brume.insight.tally.Accounts;
import dev.brume.insight.tally.DeadlineTally;
import dev.brume.schedule.Occurrence;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.Executor;
import java.util.function.LongSupplier;
import java.util.stream.Collectors;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Lays out boards of all jobs; who asks for the same within a minute gets the same, so that many who look cost as much as one. Safe for use
 * by many threads.
 */
final class Boards {
    private static final Logger LOG = LoggerFactory.getLogger(Boards.class);
    private static final int MOST_JOBS = 1_000_000;

    private final Shelf<Key, Laid> kept;

    private record Key(Zoom zoom, Optional<Instant> at, Optional<Instant> asOf) {}

    /**
     * A board of all jobs.
     *
     * @param events behind which events tell what has changed since; empty if it is of the past, or the store may only be read
     * @param lines in the order of their names
     */
    record Laid(Scale scale, Optional<FeedPosition> events, List<Line> lines) {}

    /**
     * A job with what became of what it owed, and what it is to owe.
     *
     * @param after behind which, exclusive, something is still to come
     * @param next when it is owed next, if it is, whether it is paused or not
     * @param deadlines how it kept its deadlines, if it had some
     */
    record Line(
            BoardRow row,
            Job job,
            boolean paused,
            Instant after,
            Optional<Instant> next,
            Optional<DeadlineTally> deadlines) {
        private Line with(Map<Long, DeadlineTally> all) {
            return new Line(row, job, paused, after, next, Optional.ofNullable(all.get(row.id())));
        }

        /** {@return what is to come until the end of a scale} */
        List<BoardCell> coming(Scale scale) {
            return row.dropped() ? List.of() : Board.coming(job, after, paused, scale);
        }

        JobName name() {
            return row.job();
        }

        /** {@return whether nothing was owed and nothing is coming} */
        boolean isEmpty(Scale scale) {
            return row.cells().isEmpty()
                    && deadlines.isEmpty()
                    && next.filter(at -> at.isBefore(scale.until())).isEmpty();
        }
    }

    Boards(LongSupplier nanos, Executor behind) {
        this.kept = new Shelf<>(nanos, key -> key.zoom.fresh().toNanos(), behind);
    }

    /** {@return the board as it was laid out a moment ago, which is a minute more than it is fresh, or is now} */
    Laid all(Brume brume, History history, Zoom zoom, Optional<Instant> at, Optional<Instant> asOf) {
        return kept.get(new Key(zoom, at, asOf), () -> {
            Optional<FeedPosition> events = asOf.isPresent() ? Optional.empty() : follow(brume);
            Scale scale = zoom.scale(history.now(), at);
            return new Laid(scale, events, read(history, scale, Optional.empty()));
        });
    }

    /** To follow is to say so in the store. */
    private static Optional<FeedPosition> follow(Brume brume) {
        try {
            return Optional.of(brume.followFromNow());
        } catch (StoreException e) {
            if (e.trouble() != StoreException.Trouble.NOT_WRITABLE) {
                throw e;
            }
            LOG.debug("events cannot be followed in a store that may only be read", e);
            return Optional.empty();
        }
    }

    /** {@return the lines of one job, as it stands at this instant} */
    static List<Line> one(History history, Scale scale, JobName job) {
        return read(history, scale, Optional.of(job));
    }

    private static List<Line> read(History history, Scale scale, Optional<JobName> job) {
        Timeframe all = Timeframe.between(scale.from(), scale.until());
        Set<JobName> paused = history
                .jobs(job.map(name -> JobFilter.first(1).named(name.name()).within(Set.of(name.namespace())))
                        .orElse(JobFilter.first(MOST_JOBS))
                        .thatArePaused())
                .stream()
                .map(JobView::name)
                .collect(Collectors.toUnmodifiableSet());
        List<Line> lines = new ArrayList<>(Accounts.read(
                history,
                job.map(all::of).orElse(all),
                account -> Board.row(account, scale).map(row -> line(row, account, paused, scale))));
        lines.removeIf(line -> line.row.dropped() && line.row.cells().isEmpty());
        List<JobName> withDeadlines = lines.stream()
                .filter(line -> DeadlineTally.isStatedBy(line.row.tally().versions()))
                .map(Line::name)
                .toList();
        Map<Long, DeadlineTally> deadlines = DeadlineTally.of(history, scale.from(), scale.decided(), withDeadlines);
        lines.replaceAll(line -> line.with(deadlines));
        lines.sort(Comparator.comparing(Line::name).thenComparing(line -> line.row.id()));
        return lines;
    }

    private static Line line(BoardRow row, JobAccount account, Set<JobName> paused, Scale scale) {
        Job job = account.versions().get(account.versions().size() - 1).job();
        Instant after = account.cursor().isAfter(scale.now()) ? account.cursor() : scale.now();
        Optional<Instant> next =
                row.dropped() ? Optional.empty() : job.next(after).map(Occurrence::instant);
        return new Line(row, job, paused.contains(row.job()), after, next, Optional.empty());
    }
}
