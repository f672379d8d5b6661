package dev.brume.testkit.sim;

import dev.brume.AttemptEnd;
import dev.brume.GateKey;
import dev.brume.RunState;
import dev.brume.port.JobView;
import dev.brume.port.LeaseKey;
import dev.brume.port.LedgerLine;
import dev.brume.port.RunEnd;
import dev.brume.port.RunRelease;
import dev.brume.port.RunRow;
import dev.brume.port.Span;
import dev.brume.schedule.Occurrence;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;

/**
 * Watches what commits, and knows from that alone what must hold.
 *
 * <p>It keeps books of its own and never asks the store, so a store or a duty that breaks a promise
 * cannot hide it. Confined to one thread.
 */
public final class InvariantChecker {
    private final Map<Debt, String> owed = new HashMap<>();
    private final Map<Long, RunRow> live = new HashMap<>();
    private final Map<Long, LeaseKey> leases = new HashMap<>();
    private final Map<Long, Long> highestFence = new HashMap<>();
    private final Map<Long, Integer> placesTaken = new HashMap<>();
    private final Map<Long, Integer> caps = new HashMap<>();
    private final Map<GateKey, Integer> gatesTaken = new HashMap<>();
    private final Map<GateKey, Integer> gateCaps = new HashMap<>();
    private final Map<LeaseKey, Long> unknownSince = new HashMap<>();
    private final List<Span> spans = new ArrayList<>();
    private final Set<Long> ended = new HashSet<>();
    private int takenOver;

    private record Debt(long job, Instant planned, String slot) {}

    /** Thrown when a promise is broken. */
    public static final class Violation extends AssertionError {
        private static final long serialVersionUID = 1L;

        Violation(String invariant, String what) {
            super(invariant + " is broken: " + what);
        }
    }

    /** Takes note of runs that became live. */
    public void added(Collection<RunRow> runs, int cap) {
        for (RunRow run : runs) {
            caps.put(run.owed().job(), cap);
            account(run.owed(), "run " + run.id());
            live.put(run.id(), run);
            if (run.state() != RunState.HELD) {
                takePlace(run);
            }
            run.lease().ifPresent(lease -> leased(run));
        }
    }

    /** Takes note of ledger lines of runs that never were live. */
    public void skipped(Collection<LedgerLine> lines) {
        lines.forEach(line -> account(line.owed(), "skipped run " + line.run()));
    }

    /** Takes note of spans. */
    public void passedOver(Collection<Span> more) {
        for (Span span : more) {
            for (Span other : spans) {
                boolean apart = span.job() != other.job()
                        || !span.from().isBefore(other.until())
                        || !other.from().isBefore(span.until());
                require(apart, "I4", "spans overlap: " + span + " and " + other);
            }
            spans.add(span);
        }
    }

    private void account(RunRow.Owed debt, String by) {
        String before = owed.putIfAbsent(new Debt(debt.job(), debt.planned(), debt.slot()), by);
        require(before == null, "I1", by + " and " + before + " are owed to the same occurrence " + debt);
    }

    /** Takes note of how many places a shared gate has. */
    public void gate(GateKey gate, int cap) {
        gateCaps.put(gate, cap);
    }

    private void takePlace(RunRow run) {
        long job = run.owed().job();
        int taken = placesTaken.merge(job, 1, Integer::sum);
        require(
                taken <= caps.get(job),
                "I5",
                taken + " unfinished runs of job " + job + ", allowed are " + caps.get(job));
        for (GateKey gate : run.gates()) {
            int inside = gatesTaken.merge(gate, 1, Integer::sum);
            require(
                    inside <= gateCaps.get(gate),
                    "I5",
                    inside + " unfinished runs within " + gate + ", allowed are " + gateCaps.get(gate));
        }
    }

    /** Takes note of leases given to waiting runs. */
    public void leased(RunRow run) {
        LeaseKey lease = run.leaseKey();
        LeaseKey before = leases.put(run.id(), lease);
        require(before == null, "I2", "run " + run.id() + " got " + lease + " while " + before + " held");
        require(!ended.contains(run.id()), "I1", "run " + run.id() + " was leased after its end");
        long highest = highestFence.getOrDefault(run.id(), Long.MIN_VALUE);
        require(lease.fence() > highest, "I2", "fence " + lease.fence() + " does not rise above " + highest);
        highestFence.put(run.id(), lease.fence());
    }

    /** Takes note of ends that the store accepted. */
    public void ended(Collection<RunEnd> ends, Set<LeaseKey> accepted) {
        for (RunEnd end : ends) {
            if (accepted.contains(end.lease())) {
                require(ended.add(end.lease().run()), "I1", "run " + end.lease().run() + " ended twice");
                giveUpLease(end.lease());
                RunRow run = live.remove(end.lease().run());
                placesTaken.merge(run.owed().job(), -1, Integer::sum);
                run.gates().forEach(gate -> gatesTaken.merge(gate, -1, Integer::sum));
            }
        }
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
        LeaseKey held = leases.remove(lease.run());
        require(lease.equals(held), "I3", "accepted for " + lease + " although the lease was " + held);
        unknownSince.remove(lease);
    }

    /** Takes note of held runs that were let go. */
    public void letGo(Collection<Long> runs) {
        runs.forEach(run -> takePlace(live.get(run)));
    }

    /**
     * Checks that what is leased to a living session is known to its instance, or becomes so in time.
     *
     * @param knownFences of the runs in the instance's memory
     * @param limitNanos how long a lease may be unknown
     */
    public void checkMemory(UUID session, Set<Long> knownFences, long nowNanos, long limitNanos) {
        leases.values().stream()
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

    /** Checks that every occurrence up to each job's cursor is accounted for, exactly once. */
    public void checkAccounts(Collection<JobView> jobs, Instant begin) {
        for (JobView view : jobs) {
            Map<Span, Long> counts = new HashMap<>();
            Optional<Occurrence> next = view.job().next(begin);
            while (next.isPresent() && !next.get().instant().isAfter(view.row().cursor())) {
                Instant instant = next.get().instant();
                boolean line = owed.containsKey(new Debt(view.row().id(), instant, ""));
                List<Span> around = spans.stream()
                        .filter(span -> span.job() == view.row().id())
                        .filter(span -> !instant.isBefore(span.from()) && instant.isBefore(span.until()))
                        .toList();
                require(
                        (line ? 1 : 0) + around.size() == 1,
                        "I4",
                        view.row().key() + " at " + instant + " is " + (line ? "a run" : "no run") + " and lies in "
                                + around.size() + " spans");
                around.forEach(span -> counts.merge(span, 1L, Long::sum));
                next = view.job().next(instant);
            }
            counts.forEach((span, count) -> require(
                    span.count() == count, "I4", span + " counts " + span.count() + " of " + count + " occurrences"));
        }
    }

    /** Returns how many runs ended. */
    public int endedRuns() {
        return ended.size();
    }

    /** Returns how many runs were taken over from dead instances. */
    public int takenOver() {
        return takenOver;
    }

    /** Returns how many runs are live. */
    public int liveRuns() {
        return live.size();
    }

    private static void require(boolean holds, String invariant, String what) {
        if (!holds) {
            throw new Violation(invariant, what);
        }
    }
}
