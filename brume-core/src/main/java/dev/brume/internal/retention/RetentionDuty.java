package dev.brume.internal.retention;

import dev.brume.Event;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Keep;
import dev.brume.StoreException;
import dev.brume.history.Change;
import dev.brume.history.IdRanges;
import dev.brume.history.Kept;
import dev.brume.history.SealHead;
import dev.brume.history.SealedKind;
import dev.brume.history.VersionKey;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.order.Orderer;
import dev.brume.schedule.Durations;
import dev.brume.spi.RetentionSteps;
import dev.brume.spi.RetentionSteps.Place;
import dev.brume.spi.RetentionSteps.Removed;
import dev.brume.spi.Transaction;
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

    private static final String WHOLE = "the ledger keeps ";
    private static final String FLOOR = "every job keeps at least ";
    private static final String BEFORE = "; before: ";
    private static final Optional<Kept> ALL_JOBS = Optional.empty();
    private static final int BATCH = 1000;
    private static final int PAGE = 5000;
    private static final int SLACK = 10;

    private final Instance instance;
    private final Orderer orderer;

    /** Creates the step for who has it done. */
    public RetentionDuty(Instance instance, Orderer orderer) {
        this.instance = instance;
        this.orderer = orderer;
    }

    /** Bounds the ledger as a whole; returns the bounds before. */
    public Keep bound(Keep keep) {
        return instance.transact(tx -> {
            tx.retention().lock();
            check(keep, tx.retention().floor());
            Keep before = tx.retention().total();
            tx.retention().total(keep);
            say(tx, WHOLE + keep + BEFORE + before);
            return before;
        });
    }

    /** Sets the age below which nothing goes; returns the one before. */
    public Optional<Duration> floor(Optional<Duration> age) {
        age.ifPresent(floor -> Durations.checked("floor", floor, Duration.ofHours(1), Durations.LONGEST));
        return instance.transact(tx -> {
            tx.retention().lock();
            check(tx.retention().total(), age);
            Optional<Duration> before = tx.retention().floor();
            tx.retention().floor(age);
            say(tx, FLOOR + words(age) + BEFORE + words(before));
            return before;
        });
    }

    private static String words(Optional<Duration> floor) {
        return floor.map(Durations::format).orElse("nothing");
    }

    private static void check(Keep total, Optional<Duration> floor) {
        total.age()
                .flatMap(age -> floor.filter(least -> least.compareTo(age) > 0))
                .ifPresent(least -> {
                    throw new IllegalArgumentException("the ledger as a whole would keep "
                            + Durations.format(total.age().orElseThrow()) + ", which is below the floor of "
                            + Durations.format(least) + " for every job");
                });
    }

    private void say(Transaction tx, String text) {
        tx.addChanges(List.of(change("BOUNDED", Optional.empty(), text)));
    }

    /** Bounds that nobody has put into the change log are not those that the archivist has set. */
    private boolean isSaid(Transaction tx, String beginning, String value, boolean isDefault) {
        return tx.retention()
                .said(beginning)
                .map(text -> text.startsWith(beginning + value + BEFORE))
                .orElse(isDefault);
    }

    private Change change(String kind, Optional<JobName> job, String text) {
        return orderer.change(kind, job, text);
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
        new SealDuty(instance, orderer.who()).stepIfBegun();
        Map<Optional<Kept>, Instant> cuts = cuts(instance.transact(this::bounds));
        long removed = 0;
        Optional<Instant> whole = Optional.ofNullable(cuts.get(ALL_JOBS));
        if (whole.isPresent()) {
            Months months = removeMonths(whole.get());
            removed = months.lines;
            dropMonths(whole.get());
            if (removed > 0) {
                cuts = cuts(instance.transact(this::bounds));
            }
            if (months.areRead) {
                cuts.remove(ALL_JOBS);
            }
        }
        for (Map.Entry<Optional<Kept>, Instant> cut : cuts.entrySet()) {
            removed += remove(cut.getKey(), cut.getValue());
        }
        return removed;
    }

    /** How many lines went with their months, and whether another month is still read, so that it did not go. */
    private record Months(long lines, boolean areRead) {}

    /**
     * Removes whole months first, where the ledger lies in months: what is left beyond the bound then is often within its slack. What was
     * planned in them and lies elsewhere goes with them.
     */
    private Months removeMonths(Instant before) {
        long removed = 0;
        try {
            Optional<Removed> month;
            do {
                month = instance.transact(tx -> {
                    SealHead head = tx.seals().lockHead();
                    return tx.retention()
                            .removeMonth(before, head.number() > 0)
                            .map(lines -> note(tx, head, ALL_JOBS, SealedKind.LINE, lines));
                });
                removed += month.map(Removed::count).orElse(0L);
            } while (month.isPresent());
            if (removed > 0) {
                removed +=
                        remove(ALL_JOBS, instance.transact(tx -> tx.retention().keptFrom()));
            }
            return new Months(removed, /* areRead= */ false);
        } catch (StoreException e) {
            if (e.trouble() != StoreException.Trouble.CONFLICT) {
                throw e;
            }
            instance.tell(
                    Event.Kind.PROBLEM,
                    "a month of the ledger that is beyond its bounds is still read, so it stays for now ("
                            + EVERY.toHours() + " hours at most, or until 'brume keep --apply')");
            return new Months(removed, /* areRead= */ true);
        }
    }

    /** Once, and not again: whoever works waits meanwhile, and there is time until the ledger is looked through again. */
    private void dropMonths(Instant before) {
        try {
            instance.store().transact(tx -> tx.retention().dropMonths(before));
        } catch (StoreException e) {
            if (e.trouble() != StoreException.Trouble.CONFLICT) {
                throw e;
            }
        }
    }

    private record Bounds(Instant now, Keep total, Instant floor, Instant from, List<Kept> jobs) {}

    private Bounds bounds(Transaction tx) {
        RetentionSteps steps = tx.retention();
        Instant now = instance.trusted(tx.now());
        Instant floor = steps.floor().map(now::minus).orElse(Instant.MAX);
        Keep total = steps.total();
        if (!isSaid(tx, WHOLE, total.toString(), total.isAll())
                || !isSaid(tx, FLOOR, words(steps.floor()), steps.floor().isEmpty())) {
            instance.tell(
                    Event.Kind.PROBLEM,
                    "the ledger's bounds are not those that the change log says, so nothing is removed by them; look who"
                            + " wrote to brume_keep, and set them again with 'brume keep'");
            return new Bounds(now, Keep.ALL, floor, steps.keptFrom(), List.of());
        }
        List<Kept> jobs = new ArrayList<>();
        List<Kept> page = steps.jobs(0, PAGE);
        while (!page.isEmpty()) {
            jobs.addAll(defined(tx, page));
            page = steps.jobs(page.get(page.size() - 1).job(), PAGE);
        }
        return new Bounds(now, total, floor, steps.keptFrom(), jobs);
    }

    /** A job's row says which have bounds of their own; what they are, its definition says, which nobody changes. */
    private List<Kept> defined(Transaction tx, List<Kept> page) {
        Map<VersionKey, Job> definitions = tx.definitions(page.stream()
                .map(kept -> new VersionKey(kept.job(), kept.version()))
                .toList());
        List<Kept> jobs = new ArrayList<>();
        for (Kept kept : page) {
            Job job = definitions.get(new VersionKey(kept.job(), kept.version()));
            if (job != null && job.keep().equals(kept.keep())) {
                jobs.add(kept);
            } else if (job != null) {
                instance.tell(
                        Event.Kind.PROBLEM,
                        kept.name(),
                        "its row says that the ledger keeps " + kept.keep() + " of it, and its definition " + job.keep()
                                + "; nothing is removed by either");
            }
        }
        return jobs;
    }

    /** Before which instant what may go, of each job and of all. */
    private Map<Optional<Kept>, Instant> cuts(Bounds bounds) {
        Map<Optional<Kept>, Instant> cuts = new LinkedHashMap<>();
        byAge(bounds.total, bounds.from, bounds.now).ifPresent(cut -> cuts.put(Optional.empty(), cut));
        bounds.jobs.forEach(
                job -> byAge(job.keep(), job.from(), bounds.now).ifPresent(cut -> cuts.put(Optional.of(job), cut)));
        byNumber(bounds).forEach((whose, cut) -> cuts.merge(whose, cut, (a, b) -> a.isAfter(b) ? a : b));
        cuts.replaceAll((whose, cut) -> cut.isAfter(bounds.floor) ? bounds.floor : cut);
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
            batch = instance.transact(tx -> {
                SealHead head = tx.seals().lockHead();
                return note(tx, head, whose, SealedKind.LINE, tx.retention().remove(job, before, BATCH));
            });
            removed += batch.count();
        } while (batch.count() == BATCH);
        do {
            batch = instance.transact(tx -> {
                SealHead head = tx.seals().lockHead();
                return note(tx, head, whose, SealedKind.SPAN, tx.retention().removeSpans(job, before, BATCH));
            });
        } while (batch.count() == BATCH);
        instance.transact(tx -> {
            tx.retention().close(job, before);
            return null;
        });
        return removed;
    }

    private Removed note(Transaction tx, SealHead head, Optional<Kept> whose, SealedKind kind, Removed batch) {
        if (batch.count() > 0) {
            RemovalNote note = new RemovalNote(
                    kind,
                    batch.count(),
                    batch.first().orElseThrow(),
                    batch.last().orElseThrow(),
                    whose.map(Kept::keep).orElseGet(tx.retention()::total),
                    head.number() == 0 ? IdRanges.NONE : batch.numbers());
            tx.addChanges(List.of(change("REMOVED", whose.map(Kept::name), note.text())));
        }
        return batch;
    }
}
