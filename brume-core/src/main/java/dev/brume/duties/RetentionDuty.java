package dev.brume.duties;

import dev.brume.JobKey;
import dev.brume.Keep;
import dev.brume.port.Change;
import dev.brume.port.Kept;
import dev.brume.port.RetentionSteps;
import dev.brume.port.RetentionSteps.Place;
import dev.brume.port.RetentionSteps.Removed;
import dev.brume.port.Transaction;
import dev.brume.seal.SealCheck;
import dev.brume.seal.SealHead;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * Removes from the ledger what is beyond its bounds, oldest first, in small batches; each says in the change log what it
 * removed, in the transaction that removes it.
 *
 * <p>So that this does not fill the change log, a bound may be exceeded by a tenth before anything is removed.
 */
public final class RetentionDuty {
    /** How often all instances together look the ledger through. */
    public static final Duration EVERY = Duration.ofHours(6);

    private static final int BATCH = 1000;
    private static final int PAGE = 5000;
    private static final int SLACK = 10;

    private final Instance instance;
    private final String who;
    private final String because;

    /**
     * Creates the step.
     *
     * @param who has it done, for the change log
     * @param because why, empty if nobody says
     */
    public RetentionDuty(Instance instance, String who, String because) {
        this.instance = instance;
        this.who = who;
        this.because = because;
    }

    /** Bounds the ledger as a whole; returns the bounds before. */
    public Keep bound(Keep keep) {
        return instance.transact(tx -> {
            tx.lockDefinitions();
            Keep before = tx.retention().total();
            tx.retention().total(keep);
            tx.addChanges(
                    List.of(change("BOUNDED", Optional.empty(), "the ledger keeps " + keep + "; before: " + before)));
            return before;
        });
    }

    private Change change(String kind, Optional<JobKey> job, String text) {
        return Orderer.at(instance, who, because).change(kind, job, text);
    }

    /** Looks the ledger through unless that was done lately; returns how many lines were removed. */
    public long stepIfTime() {
        boolean begun = instance.transact(tx -> {
            Keep total = tx.retention().total();
            boolean bounded = !total.isAll() || !tx.retention().jobs(0, 1).isEmpty();
            return bounded && tx.retention().begin(instance.trusted(tx.now()).minus(EVERY));
        });
        return begun ? step() : 0;
    }

    /** Looks the ledger through; returns how many lines were removed. */
    public long step() {
        new SealDuty(instance, who).stepIfBegun();
        Bounds bounds = instance.transact(this::bounds);
        long removed = 0;
        for (Map.Entry<Optional<Kept>, Instant> cut : cuts(bounds).entrySet()) {
            removed += remove(cut.getKey(), cut.getValue());
        }
        return removed;
    }

    private record Bounds(Instant now, Keep total, Instant from, List<Kept> jobs) {}

    private Bounds bounds(Transaction tx) {
        RetentionSteps steps = tx.retention();
        List<Kept> jobs = new ArrayList<>();
        List<Kept> page = steps.jobs(0, PAGE);
        while (!page.isEmpty()) {
            jobs.addAll(page);
            page = steps.jobs(page.get(page.size() - 1).job(), PAGE);
        }
        return new Bounds(instance.trusted(tx.now()), steps.total(), steps.keptFrom(), jobs);
    }

    /** Before which instant what may go, of each job and of all. */
    private Map<Optional<Kept>, Instant> cuts(Bounds bounds) {
        Map<Optional<Kept>, Instant> cuts = new LinkedHashMap<>();
        byAge(bounds.total, bounds.from, bounds.now).ifPresent(cut -> cuts.put(Optional.empty(), cut));
        bounds.jobs.forEach(
                job -> byAge(job.keep(), job.from(), bounds.now).ifPresent(cut -> cuts.put(Optional.of(job), cut)));
        byNumber(bounds).forEach((whose, cut) -> cuts.merge(whose, cut, (a, b) -> a.isAfter(b) ? a : b));
        return cuts;
    }

    private static Optional<Instant> byAge(Keep keep, Instant from, Instant now) {
        return keep.age()
                .filter(age -> Duration.between(from, now.minus(age)).compareTo(age.dividedBy(SLACK)) >= 0)
                .map(now::minus);
    }

    /** Counts lines from the newest back, until it is known of each bound whether it is exceeded. */
    private Map<Optional<Kept>, Instant> byNumber(Bounds bounds) {
        Map<Long, Count> counts = new HashMap<>();
        bounds.jobs.forEach(job ->
                job.keep().runs().ifPresent(most -> counts.put(job.job(), new Count(Optional.of(job), most))));
        Optional<Count> total = bounds.total.runs().map(most -> new Count(Optional.empty(), most));
        List<Count> open = new ArrayList<>(counts.values());
        total.ifPresent(open::add);
        Map<Optional<Kept>, Instant> cuts = new LinkedHashMap<>();
        Optional<Place> after = Optional.empty();
        while (!open.isEmpty()) {
            Optional<Place> last = after;
            List<Place> page = instance.transact(tx -> tx.retention().newest(last, PAGE));
            for (Place line : page) {
                total.ifPresent(count -> count.add(line));
                Optional.ofNullable(counts.get(line.job())).ifPresent(count -> count.add(line));
            }
            open.stream().filter(Count::isExceeded).forEach(count -> cuts.put(count.whose, count.cut));
            open.removeIf(Count::isExceeded);
            if (page.size() < PAGE) {
                break;
            }
            after = Optional.of(page.get(page.size() - 1));
        }
        return cuts;
    }

    private static final class Count {
        private final Optional<Kept> whose;
        private final long most;
        private long lines;
        private Instant cut = Instant.MIN;

        Count(Optional<Kept> whose, long most) {
            this.whose = whose;
            this.most = most;
        }

        void add(Place line) {
            lines++;
            if (lines == most) {
                cut = line.planned();
            }
        }

        boolean isExceeded() {
            return lines > most + most / SLACK;
        }
    }

    private long remove(Optional<Kept> whose, Instant before) {
        Optional<Long> job = whose.map(Kept::job);
        long removed = 0;
        Removed batch;
        do {
            batch = instance.transact(tx -> remove(tx, whose, before));
            removed += batch.lines();
        } while (batch.lines() == BATCH);
        instance.transact(tx -> tx.retention().close(job, before));
        return removed;
    }

    private Removed remove(Transaction tx, Optional<Kept> whose, Instant before) {
        SealHead head = tx.seals().lockHead();
        Removed batch = tx.retention().remove(whose.map(Kept::job), before, BATCH);
        if (batch.lines() > 0) {
            Optional<JobKey> key = whose.map(Kept::key);
            String bounds =
                    whose.map(Kept::keep).orElseGet(tx.retention()::total).toString();
            tx.addChanges(List.of(change(
                    "REMOVED",
                    key,
                    batch.lines() + (batch.lines() == 1 ? " ledger line" : " ledger lines") + ", planned from "
                            + batch.first().orElseThrow() + " to "
                            + batch.last().orElseThrow() + "; kept: " + bounds
                            + (head.number() == 0 ? "" : SealCheck.REMOVED + batch.runs()))));
        }
        return batch;
    }
}
