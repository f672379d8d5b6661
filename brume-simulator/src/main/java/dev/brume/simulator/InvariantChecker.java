package dev.brume.simulator;

import dev.brume.AttemptEnd;
import dev.brume.FollowUp;
import dev.brume.GateKey;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.Rate;
import dev.brume.RunState;
import dev.brume.history.History;
import dev.brume.history.JobRow;
import dev.brume.history.JobView;
import dev.brume.history.LeaseKey;
import dev.brume.history.Pause;
import dev.brume.history.RunRow;
import dev.brume.history.RunView;
import dev.brume.history.Span;
import dev.brume.spi.LedgerLine;
import dev.brume.spi.OneOffOrder;
import dev.brume.spi.RunEnd;
import dev.brume.spi.RunRelease;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;
import java.util.function.LongSupplier;
import java.util.stream.Collectors;

/**
 * Watches what commits, and knows from that alone what must hold.
 *
 * <p>It keeps books of its own and asks the store only at the end, so a store or a duty that breaks a promise cannot hide
 * it. Confined to one thread.
 */
public final class InvariantChecker {
    private static final Comparator<RunRow> FIRST =
            Comparator.comparing((RunRow run) -> run.owed().planned()).thenComparing(RunRow::id);

    private final LongSupplier nanos;
    private final long shortestSilence;
    private final Map<Long, Long> highestFence = new HashMap<>();
    private final Map<LeaseKey, Long> unknownSince = new HashMap<>();
    private final Map<GateKey, Integer> gateCaps = new HashMap<>();
    private final Map<GateKey, Rate> rates = new HashMap<>();
    private int returns;
    private final Map<Long, Long> waitsInVainSince = new HashMap<>();
    private Books books = new Books();
    private int endedRuns;
    private int takenOver;

    /** Thrown when a promise is broken. */
    public static final class Violation extends AssertionError {
        private static final long serialVersionUID = 1L;

        private final String invariant;

        Violation(String invariant, String what) {
            super(invariant + " is broken: " + what);
            this.invariant = invariant;
        }

        /** {@return which promise, such as {@code I1}} */
        public String invariant() {
            return invariant;
        }
    }

    /**
     * Creates a checker.
     *
     * @param nanos elapsed time, as it truly is
     * @param shortestSilence how long, in that time, a session must have been silent before it may be taken for dead
     */
    public InvariantChecker(LongSupplier nanos, long shortestSilence) {
        this.nanos = nanos;
        this.shortestSilence = shortestSilence;
    }

    private static void require(boolean holds, String invariant, String what) {
        if (!holds) {
            throw new Violation(invariant, what);
        }
    }

    // Runs.

    /**
     * Takes note of runs that became live.
     *
     * @param now what time it was when that was committed
     */
    public void added(Collection<RunRow> runs, int cap, Instant now) {
        for (RunRow run : runs) {
            checkPauses(run, now);
            books.caps.putIfAbsent(run.owed().job(), cap);
            account(run.owed(), run.id());
            books.live.put(run.id(), run);
            if (run.state() == RunState.WAITING) {
                books.held.add(run.id());
            } else {
                takePlace(run);
                begins(run, now);
            }
            run.lease().ifPresent(lease -> leased(run));
        }
    }

    private void checkPauses(RunRow run, Instant now) {
        boolean bySchedule =
                run.owed().origin() == Origin.SCHEDULE || run.owed().origin() == Origin.CATCH_UP;
        if (books.paused.isEmpty() || !bySchedule) {
            return;
        }
        Instant planned = run.owed().planned();
        Job job = Objects.requireNonNull(books.versionsOf(run.owed().job()).get(run.version()))
                .job();
        for (Books.Paused pause : books.paused) {
            boolean within = pause.scope().covers(job.name(), job.tags())
                    && !planned.isBefore(pause.from())
                    && planned.isBefore(pause.until());
            require(
                    !within || !now.isBefore(pause.until()),
                    "PAUSE",
                    "run " + run.id() + ", planned " + planned + ", was made at " + now + " within the pause from "
                            + pause.from() + " until " + pause.until());
        }
    }

    /** Takes note of a pause that all jobs knew before it began. */
    public void paused(Pause.Scope scope, Instant from, Instant until) {
        books.paused.add(new Books.Paused(scope, from, until));
    }

    /** Takes note that whatever pauses of a scope were in force ended. */
    public void resumed(Pause.Scope scope, Instant at) {
        books.paused.replaceAll(pause -> pause.scope().equals(scope)
                        && !pause.from().isAfter(at)
                        && pause.until().isAfter(at)
                ? new Books.Paused(scope, pause.from(), at)
                : pause);
    }

    /** Takes note that whatever pauses of a scope were to come never will. */
    public void tookBackPauses(Pause.Scope scope, Instant at) {
        books.paused.removeIf(
                pause -> pause.scope().equals(scope) && pause.from().isAfter(at));
    }

    /** Takes note of ledger lines of runs that never were live. */
    public void skipped(Collection<LedgerLine> lines) {
        lines.forEach(line -> {
            account(line.owed(), line.run());
            books.ended.put(line.run(), line.outcome());
            books.endings.add(line.run());
        });
    }

    /** Takes note of spans. */
    public void passedOver(Collection<Span> more) {
        for (Span span : more) {
            for (Span other : books.spans) {
                boolean apart = span.job() != other.job()
                        || !span.from().isBefore(other.until())
                        || !other.from().isBefore(span.until());
                require(apart, "I4", "spans overlap: " + span + " and " + other);
            }
            books.spans.add(span);
        }
    }

    private void account(RunRow.Owed debt, long run) {
        Long before = books.owed.putIfAbsent(new Books.Debt(debt.job(), debt.planned(), debt.slot()), run);
        require(before == null, "I1", "runs " + run + " and " + before + " are owed to the same occurrence " + debt);
        if (debt.oneOffKey().isPresent()) {
            Instant due = books.oneOffs.values().stream()
                    .filter(oneOff -> oneOff.run() == run)
                    .map(OneOffOrder::dueAt)
                    .findFirst()
                    .orElse(null);
            require(
                    debt.planned().equals(due),
                    "I1",
                    "run " + run + " is owed to a one-off that was not ordered for then, but for " + due + ": " + debt);
        }
    }

    private void takePlace(RunRow run) {
        Books.Place place = place(run);
        int taken = books.placesTaken.merge(place, 1, Integer::sum);
        boolean ordered = books.onEach.contains(place.job()) && place.instance().isEmpty();
        require(
                ordered || taken <= books.cap(place.job()),
                "I5",
                taken + " unfinished runs of " + place + ", allowed are " + books.cap(place.job()));
        for (GateKey gate : run.gates()) {
            int inside = books.gatesTaken.merge(gate, 1, Integer::sum);
            int allowed = capOf(gate);
            require(inside <= allowed, "I5", inside + " unfinished runs within " + gate + ", allowed are " + allowed);
        }
    }

    private int capOf(GateKey gate) {
        return gate.kind() == GateKey.Kind.ONE_OFF ? 1 : Objects.requireNonNull(gateCaps.get(gate), gate::toString);
    }

    private static Books.Place place(RunRow run) {
        boolean bound = run.needs().session().isPresent();
        return new Books.Place(run.owed().job(), bound ? run.owed().slot() : "");
    }

    /** Takes note of how many places a shared gate has. */
    public void gate(GateKey gate, int cap) {
        gateCaps.put(gate, cap);
    }

    /** Takes note of how many runs a shared gate lets begin in a time. */
    public void rate(GateKey gate, Rate rate) {
        rates.put(gate, rate);
    }

    private void begins(RunRow run, Instant now) {
        for (GateKey gate : run.gates()) {
            Rate rate = rates.get(gate);
            if (rate != null) {
                List<Instant> begun = books.begun.computeIfAbsent(gate, first -> new ArrayList<>());
                Instant from = now.minus(rate.per());
                begun.removeIf(at -> !at.isAfter(from));
                begun.add(now);
                long within = begun.stream().filter(at -> !at.isAfter(now)).count();
                require(
                        within <= rate.starts(),
                        "RATE",
                        within + " runs within " + gate + " began in " + rate.per() + " up to " + now + ", allowed are "
                                + rate);
            }
        }
    }

    /** Takes note of leases given to waiting runs. */
    public void leased(RunRow run) {
        LeaseKey lease = run.leaseKey();
        LeaseKey before = books.leases.put(run.id(), lease);
        require(before == null, "I2", "run " + run.id() + " got " + lease + " while " + before + " held");
        require(!books.ended.containsKey(run.id()), "I1", "run " + run.id() + " was leased after its end");
        long highest = highestFence.getOrDefault(run.owed().job(), Long.MIN_VALUE);
        require(lease.fence() > highest, "I2", "fence " + lease.fence() + " does not rise above " + highest);
        highestFence.put(run.owed().job(), lease.fence());
    }

    /** Takes note of ends that the store accepted. */
    public void ended(Collection<RunEnd> ends, Set<LeaseKey> accepted) {
        for (RunEnd end : ends) {
            if (accepted.contains(end.lease())) {
                long id = end.lease().run();
                require(books.ended.put(id, end.outcome()) == null, "I1", "run " + id + " ended twice");
                books.endings.add(id);
                giveUpLease(end.lease());
                RunRow run = books.live(id);
                books.live.remove(id);
                givePlaceBack(run);
                books.finished.put(
                        id,
                        new Books.Finished(
                                run, end.outcome(), end.last().endedAt().orElseThrow()));
                endedRuns++;
            }
        }
    }

    private void givePlaceBack(RunRow run) {
        books.placesTaken.merge(place(run), -1, Integer::sum);
        run.gates().forEach(gate -> books.gatesTaken.merge(gate, -1, Integer::sum));
    }

    /** Takes note of releases that the store accepted. */
    public void released(Collection<RunRelease> releases, Set<LeaseKey> accepted) {
        for (RunRelease release : releases) {
            if (accepted.contains(release.lease())) {
                giveUpLease(release.lease());
                boolean lost = release.attempts().stream()
                        .reduce((a, b) -> b)
                        .flatMap(last -> last.end())
                        .filter(end -> end == AttemptEnd.LOST)
                        .isPresent();
                takenOver += lost ? 1 : 0;
            }
        }
    }

    private void giveUpLease(LeaseKey lease) {
        LeaseKey held = books.leases.remove(lease.run());
        require(lease.equals(held), "I3", "accepted for " + lease + " although the lease was " + held);
        unknownSince.remove(lease);
    }

    /** Takes note of held runs that were let go. */
    public void letGo(Collection<Long> runs, Instant now) {
        books.held.removeAll(Set.copyOf(runs));
        runs.forEach(run -> {
            takePlace(books.live(run));
            begins(books.live(run), now);
        });
    }

    /** Takes note of a run that ended while nobody held it. */
    public void endedWaiting(long id, Outcome outcome) {
        require(!books.leases.containsKey(id), "I3", "run " + id + " ended as waiting although it is leased");
        require(books.ended.put(id, outcome) == null, "I1", "run " + id + " ended twice");
        books.endings.add(id);
        if (!books.held.remove(id)) {
            givePlaceBack(books.live(id));
        }
        books.live.remove(id);
        endedRuns++;
    }

    /** {@return the runs that have ended, in the order of commits} */
    List<Long> endings() {
        return books.endings;
    }

    /** Checks that somebody who follows the feed learns in time that the store has become an older copy of itself. */
    void checkTold(boolean inTime) {
        require(inTime, "FEED", "nobody was told that the store has become an older copy of itself");
    }

    /** Checks what somebody has been told who follows the feed: all ends since one, each once, in the order of commits. */
    void checkFollowed(List<Long> told, int from) {
        List<Long> committed = books.endings.subList(Math.min(from, books.endings.size()), books.endings.size());
        require(told.equals(committed), "FEED", "ended since: " + committed + ", told: " + told);
    }

    // Sessions.

    /** Takes note of a session that was opened; the instance has given up the one it had before. */
    public void opened(String instance, UUID session) {
        UUID before = books.sessions.put(instance, session);
        if (before != null) {
            books.renewedAt.remove(before);
        }
        renewed(session);
    }

    /** Takes note of a session that was renewed. */
    public void renewed(UUID session) {
        books.renewedAt.put(session, nanos.getAsLong());
    }

    /** Takes note of a session that someone else took for dead. */
    public void lapsed(UUID session) {
        long silent = nanos.getAsLong() - books.renewedAt.getOrDefault(session, Long.MIN_VALUE / 2);
        require(
                silent >= shortestSilence,
                "I2",
                "session " + session + " was taken for dead after a silence of " + silent / 1_000_000 + " ms");
    }

    /**
     * Checks that what is leased to a living session is known to its instance, or becomes so in time.
     *
     * @param knownFences of the runs in the instance's memory
     * @param limitNanos how long a lease may be unknown
     */
    public void checkMemory(UUID session, Set<Long> knownFences, long nowNanos, long limitNanos) {
        books.leases.values().stream()
                .filter(lease -> lease.session().equals(session))
                .forEach(lease -> {
                    if (knownFences.contains(lease.fence())) {
                        unknownSince.remove(lease);
                    } else {
                        long since = unknownSince.computeIfAbsent(lease, unknown -> nowNanos);
                        require(
                                nowNanos - since <= limitNanos,
                                "I8",
                                lease + " has been unknown to its instance for " + (nowNanos - since) / 1_000_000
                                        + " ms");
                    }
                });
    }

    /**
     * Checks that no run waits for long although its job, and all its gates, have a place. Only the first that waits of each job has a
     * right to one: later ones may wait behind it, whatever they need.
     *
     * @param limitNanos how long that may take to be noticed
     */
    public void checkRoom(List<JobView> jobs, long nowNanos, long limitNanos) {
        Set<Long> paused = jobs.stream()
                .map(JobView::row)
                .filter(JobRow::paused)
                .map(JobRow::id)
                .collect(Collectors.toSet());
        Map<Long, RunRow> firsts = new HashMap<>();
        books.held.stream()
                .map(books::live)
                .forEach(run -> firsts.merge(run.owed().job(), run, (a, b) -> FIRST.compare(a, b) <= 0 ? a : b));
        Set<Long> inVain = firsts.values().stream()
                .filter(run -> !paused.contains(run.owed().job()) && hasRoom(run))
                .map(RunRow::id)
                .collect(Collectors.toSet());
        waitsInVainSince.keySet().retainAll(inVain);
        for (long run : inVain) {
            long since = waitsInVainSince.computeIfAbsent(run, unknown -> nowNanos);
            require(
                    nowNanos - since <= limitNanos,
                    "ROOM",
                    "run " + run + " has waited for " + (nowNanos - since) / 1_000_000
                            + " ms although there is a place");
        }
    }

    /** The places of an instance's own runs are counted by instance, those of the job by all of them together. */
    private boolean hasRoom(RunRow run) {
        long job = run.owed().job();
        int taken = books.placesTaken.entrySet().stream()
                .filter(place -> place.getKey().job() == job)
                .mapToInt(Map.Entry::getValue)
                .sum();
        return taken < books.cap(job)
                && run.gates().stream()
                        .allMatch(gate ->
                                books.gatesTaken.getOrDefault(gate, 0) < capOf(gate) && !rates.containsKey(gate));
    }

    // Definitions and orders.

    /** Takes note of a version of a definition, in force strictly after an instant. */
    public void defined(long job, int number, Job definition, Instant after) {
        books.caps.put(job, definition.ifBusy().places());
        if (definition.onEachInstance()) {
            books.onEach.add(job);
        } else {
            books.onEach.remove(job);
        }
        books.versions.computeIfAbsent(job, first -> new TreeMap<>()).put(number, new Books.Version(definition, after));
    }

    /** Takes note of a job that owes nothing any more after an instant. */
    public void dropped(long job, Instant cursor) {
        books.dropped.put(job, cursor);
    }

    /** Checks that a transaction wrote a line of the change log for each definition it changed. */
    public void committed(int definitions, int changes) {
        require(
                changes >= definitions,
                "I7",
                definitions + " definitions were changed with " + changes + " lines in the change log");
    }

    /** Takes note of a one-off that was ordered. */
    public void ordered(OneOffOrder oneOff) {
        books.oneOffs.put(oneOff.run(), oneOff);
    }

    /** Takes note of a one-off that was put in the place of another: the same moved, or the next of its key. */
    public void replaced(OneOffOrder before, OneOffOrder instead) {
        boolean moves = before.run() == instead.run();
        require(
                moves != isMade(before.run()),
                "I1",
                before + (moves ? " was moved although its run was made" : " gave way to the next unmade"));
        books.oneOffs.put(instead.run(), instead);
    }

    /** Takes note of a one-off that was dropped. */
    public void removed(OneOffOrder dropped) {
        books.oneOffs.remove(dropped.run());
        require(!isMade(dropped.run()), "I1", dropped + " was dropped although its run was made");
    }

    private boolean isMade(long run) {
        return books.owed.containsValue(run);
    }

    // The whole.

    /** {@return the books as they stand, for when the store becomes a copy of itself} */
    Books copy() {
        return books.copy();
    }

    /** {@return how often it went back} */
    int returns() {
        return returns;
    }

    /** Goes back to books taken earlier; fences that were given out since still count. */
    void goBackTo(Books earlier) {
        books = earlier;
        returns++;
        unknownSince.clear();
        waitsInVainSince.clear();
    }

    /**
     * Checks at the end that everything that was owed is accounted for, exactly once, and that what ended stays as it was.
     *
     * @param decided up to when one-offs must have become runs
     */
    public void checkAccounts(History history, Instant decided) {
        Accounts accounts = new Accounts(books);
        Map<Long, Instant> cursors =
                history.jobs().stream().map(JobView::row).collect(Collectors.toMap(JobRow::id, JobRow::cursor));
        books.versions.keySet().forEach(job -> {
            if (cursors.containsKey(job) || books.dropped.containsKey(job)) {
                accounts.check(job, cursors.getOrDefault(job, Instant.MIN));
            }
        });
        for (OneOffOrder oneOff : books.oneOffs.values()) {
            require(
                    isMade(oneOff.run()) || oneOff.dueAt().isAfter(decided),
                    "I4",
                    oneOff + " was due and no run was made of it");
        }
        books.finished.values().stream()
                .filter(finished -> finished.endedAt().isBefore(decided))
                .forEach(this::checkFollowed);
        books.ended.forEach((run, outcome) -> {
            Optional<Outcome> onRecord = history.run(run).flatMap(RunView::outcome);
            require(
                    onRecord.equals(Optional.of(outcome)),
                    "I6",
                    "the line of run " + run + " said " + outcome + " and now says " + onRecord);
        });
    }

    /** What follows an end is ordered once, unless its job was dropped at some time: then nobody can tell here. */
    private void checkFollowed(Books.Finished finished) {
        RunRow run = finished.run();
        Job job = Objects.requireNonNull(books.versionsOf(run.owed().job()).get(run.version()))
                .job();
        Set<JobName> dropped = books.dropped.keySet().stream().map(this::keyOf).collect(Collectors.toSet());
        List<JobName> ordered = books.oneOffs.values().stream()
                .filter(one -> one.parent().equals(Optional.of(run.id())))
                .map(one -> keyOf(one.job()))
                .toList();
        for (FollowUp followUp : job.followUps()) {
            long expected = followUp.follows(finished.outcome()) ? 1 : 0;
            long found = ordered.stream().filter(followUp.job()::equals).count();
            require(
                    found == expected || dropped.contains(followUp.job()),
                    "I4",
                    "run " + run.id() + ", which ended " + finished.outcome() + ", is followed by " + found
                            + " runs of " + followUp.job() + " instead of " + expected);
        }
    }

    private JobName keyOf(long job) {
        return books.versionsOf(job).firstEntry().getValue().job().name();
    }

    /** Checks that no cursor is beyond an instant. */
    public void checkCursors(List<JobView> jobs, Instant limit) {
        jobs.forEach(view -> require(
                !view.row().cursor().isAfter(limit),
                "I4",
                "the cursor of " + view.row().name() + " is at " + view.row().cursor() + ", beyond " + limit));
    }

    /** {@return how many runs ended} */
    public int endedRuns() {
        return endedRuns;
    }

    /** {@return how many runs were taken over from dead instances} */
    public int takenOver() {
        return takenOver;
    }

    /** {@return how many runs are live} */
    public int liveRuns() {
        return books.live.size();
    }
}
