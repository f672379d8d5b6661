package dev.brume.memory;

import dev.brume.Attempt;
import dev.brume.RunState;
import dev.brume.history.LeaseKey;
import dev.brume.history.Output;
import dev.brume.history.RunRow;
import dev.brume.history.Span;
import dev.brume.spi.Claim;
import dev.brume.spi.Ended;
import dev.brume.spi.Fence;
import dev.brume.spi.LedgerLine;
import dev.brume.spi.PrintedNote;
import dev.brume.spi.ProgressNote;
import dev.brume.spi.RunEnd;
import dev.brume.spi.RunRelease;
import dev.brume.spi.Settle;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Supplier;
import java.util.stream.Stream;

/** Runs from when they are planned up to their line in the ledger. */
final class MemoryRuns {
    private final Tables tables;
    private final Supplier<Instant> clock;

    MemoryRuns(Tables tables, Supplier<Instant> clock) {
        this.tables = tables;
        this.clock = clock;
    }

    void add(List<RunRow> runs) {
        for (RunRow run : runs) {
            owe(run.owed(), run.id());
            tables.put(tables.runs, run.id(), run);
            if (run.state() == RunState.WAITING) {
                tables.put(tables.waits, run.id(), new Tables.Wait(clock.get(), Optional.empty()));
            }
        }
    }

    void addLines(List<LedgerLine> lines) {
        lines.forEach(line -> {
            owe(line.owed(), line.run());
            tables.record(line, clock.get());
        });
    }

    void addSpans(List<Span> spans) {
        spans.forEach(tables::record);
    }

    List<RunRow> claim(Claim claim) {
        Instant now = clock.get();
        Stream<RunRow> waiting =
                claim.oldestFirst() ? tables.runs.oldestFirst(claim.lane()) : tables.runs.byPriority(claim.lane());
        List<RunRow> ready = waiting.filter(run -> !run.readyAt().isAfter(now))
                .filter(run -> !MemoryOrders.isTooLate(run, now))
                .filter(run -> claim.ability().meets(run.needs()))
                .limit(claim.limit())
                .toList();
        List<RunRow> leased = new ArrayList<>();
        for (RunRow run : ready) {
            long fence = Fence.of(claim.epoch(), tables.next("fence"));
            RunRow taken = run.moved(
                    RunState.RUNNING,
                    run.readyAt(),
                    Optional.of(new RunRow.Lease(claim.session(), fence, now)),
                    run.attempts(),
                    run.attempt() + 1);
            tables.put(tables.runs, run.id(), taken);
            leased.add(taken);
        }
        return leased;
    }

    private Optional<RunRow> leased(LeaseKey lease) {
        return Optional.ofNullable(tables.runs.get(lease.run()))
                .filter(run -> run.lease().isPresent() && run.leaseKey().equals(lease));
    }

    Ended end(List<RunEnd> ends) {
        Set<LeaseKey> accepted = new HashSet<>();
        Set<Long> unsettled = new HashSet<>();
        for (RunEnd end : ends) {
            Optional<RunRow> held = leased(end.lease());
            if (held.isPresent()) {
                boolean settles =
                        end.settles() || tables.awaited.containsKey(end.lease().run());
                end(held.get(), end, settles);
                accepted.add(end.lease());
                if (settles) {
                    unsettled.add(end.lease().run());
                }
            }
        }
        return new Ended(accepted, unsettled);
    }

    private void end(RunRow run, RunEnd end, boolean settles) {
        tables.remove(tables.runs, run.id());
        tables.remove(tables.progress, run.id());
        tables.remove(tables.printed, run.id());
        tables.remove(tables.awaited, run.id());
        addLines(List.of(LedgerLine.ofEnd(run, end)));
        if (settles) {
            Settle.End how = new Settle.End(
                    end.outcome(),
                    end.last().endedAt().orElseThrow(),
                    end.last().trace());
            tables.put(
                    tables.settles,
                    run.id(),
                    new Settle(
                            run.id(),
                            run.owed().job(),
                            run.version(),
                            Optional.of(how),
                            /* waited= */ false,
                            run.gates()));
        }
        addOutput(run.id(), end.last(), end.output());
    }

    private void addOutput(long run, Attempt attempt, Optional<Output> output) {
        output.ifPresent(printed -> tables.put(tables.outputs, new Tables.OutputKey(run, attempt.number()), printed));
    }

    Set<LeaseKey> release(List<RunRelease> releases) {
        Set<LeaseKey> accepted = new HashSet<>();
        for (RunRelease release : releases) {
            Optional<RunRow> held = leased(release.lease());
            if (held.isPresent()) {
                RunRow run = held.get();
                tables.remove(tables.progress, run.id());
                tables.remove(tables.printed, run.id());
                tables.put(
                        tables.runs,
                        run.id(),
                        run.moved(
                                release.state(),
                                release.readyAt(),
                                Optional.empty(),
                                release.attempts(),
                                run.attempt()));
                if (!release.attempts().isEmpty()) {
                    addOutput(
                            run.id(), release.attempts().get(release.attempts().size() - 1), release.output());
                }
                accepted.add(release.lease());
            }
        }
        return accepted;
    }

    boolean holdLease(LeaseKey lease) {
        return leased(lease).isPresent();
    }

    /** {@return those of leases that still hold} */
    List<ProgressNote> progress(List<ProgressNote> notes) {
        List<ProgressNote> accepted =
                notes.stream().filter(note -> leased(note.lease()).isPresent()).toList();
        accepted.forEach(note -> tables.put(tables.progress, note.lease().run(), note.progress()));
        return accepted;
    }

    void printed(List<PrintedNote> notes) {
        notes.stream()
                .filter(note -> leased(note.lease()).isPresent())
                .forEach(note -> tables.put(tables.printed, note.lease().run(), note));
    }

    boolean ended(LeaseKey lease) {
        return Optional.ofNullable(tables.ledger.get(lease.run())).map(LedgerLine::attempts).stream()
                .flatMap(List::stream)
                .reduce((a, b) -> b)
                .filter(last -> last.fence() == lease.fence() && last.session().equals(lease.session()))
                .isPresent();
    }

    Set<LeaseKey> recorded(Collection<LeaseKey> leases) {
        Set<LeaseKey> found = new HashSet<>();
        for (LeaseKey lease : leases) {
            List<Attempt> attempts = new ArrayList<>();
            Optional.ofNullable(tables.ledger.get(lease.run())).ifPresent(line -> attempts.addAll(line.attempts()));
            Optional.ofNullable(tables.runs.get(lease.run())).ifPresent(run -> attempts.addAll(run.attempts()));
            boolean known = attempts.stream()
                    .anyMatch(attempt -> attempt.fence() == lease.fence()
                            && attempt.session().equals(lease.session()));
            if (known) {
                found.add(lease);
            }
        }
        return found;
    }

    /** The check that unique indexes make in a database. */
    private void owe(RunRow.Owed owed, long run) {
        Tables.Debt debt = new Tables.Debt(owed.job(), owed.planned(), owed.slot());
        Long before = tables.debts.get(debt);
        if (before != null && before != run) {
            throw MemoryTransaction.duplicate("run of job " + owed.job() + " at " + owed.planned());
        }
        tables.put(tables.debts, debt, run);
    }
}
