package dev.brume.jdbc;

import dev.brume.GateKey;
import dev.brume.history.LeaseKey;
import dev.brume.history.RunRow;
import dev.brume.spi.Ended;
import dev.brume.spi.LedgerLine;
import dev.brume.spi.PrintedNote;
import dev.brume.spi.ProgressNote;
import dev.brume.spi.RunEnd;
import dev.brume.spi.RunRelease;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/** Ends and releases leased runs, if their lease is still what its holder believes. */
final class EndRows {
    private final Statements sql;
    private final RunRows runs;

    EndRows(Statements sql, RunRows runs) {
        this.sql = sql;
        this.runs = runs;
    }

    Ended end(List<RunEnd> ends) {
        Map<LeaseKey, Held> held = lockLeased(ends.stream().map(RunEnd::lease).toList());
        List<Accepted> accepted = ends.stream()
                .flatMap(end -> Optional.ofNullable(held.get(end.lease())).map(run -> new Accepted(run, end)).stream())
                .sorted(Comparator.comparing(each -> each.run().id()))
                .toList();
        sql.batch(
                "delete from brume_run where id = ?",
                accepted,
                (parameters, each) -> parameters.add(each.run().id()));
        runs.addLines(accepted.stream()
                .map(each -> LedgerLine.ofEnd(each.run(), each.end))
                .toList());
        List<Accepted> unsettled = accepted.stream().filter(Accepted::settles).toList();
        sql.batch(
                "insert into brume_settle (run_id, job_id, version, outcome, ended_at, gates, trace) values (?, ?, ?, ?, ?, ?, ?)",
                unsettled,
                (parameters, each) -> parameters.all(
                        each.run().id(),
                        each.run().owed().job(),
                        each.run().version(),
                        each.end.outcome(),
                        each.end.last().endedAt(),
                        GateKey.join(each.run().gates()),
                        each.end.last().trace()));
        runs.addOutputs(accepted.stream()
                .flatMap(
                        each -> RunRows.OutputRow.of(each.end, each.run().owed().planned()))
                .toList());
        return new Ended(
                Set.copyOf(held.keySet()),
                unsettled.stream().map(each -> each.run().id()).collect(Collectors.toSet()));
    }

    /** A run as it was leased, and whether somebody waits for its end. */
    private record Held(RunRow run, boolean awaited) {}

    /** An end that counts. */
    private record Accepted(Held held, RunEnd end) {
        RunRow run() {
            return held.run;
        }

        boolean settles() {
            return end.settles() || held.awaited;
        }
    }

    /** Locks those runs that are still leased as stated. */
    private Map<LeaseKey, Held> lockLeased(List<LeaseKey> leases) {
        Map<LeaseKey, Held> held = new LinkedHashMap<>();
        Set<LeaseKey> stated = new HashSet<>(leases);
        List<Long> ids = leases.stream().map(LeaseKey::run).distinct().sorted().toList();
        sql
                .in(
                        "select " + Rows.RUN + ", awaited from brume_run where id in ",
                        ids,
                        " and session_id is not null order by id for update",
                        row -> new Held(Rows.run(row), row.integer("awaited") != 0))
                .stream()
                .filter(each -> stated.contains(each.run.leaseKey()))
                .forEach(each -> held.put(each.run.leaseKey(), each));
        return held;
    }

    Set<LeaseKey> release(List<RunRelease> releases) {
        Map<LeaseKey, Held> held =
                lockLeased(releases.stream().map(RunRelease::lease).toList());
        List<RunRelease> accepted = releases.stream()
                .filter(release -> held.containsKey(release.lease()))
                .sorted(Comparator.comparing(release -> release.lease().run()))
                .toList();
        sql.batch(
                """
                update brume_run
                set state = ?, ready_at = ?, attempts = ?, session_id = null, fence = null, leased_at = null,
                    progress = null, message = null, printed = null
                where id = ?""",
                accepted,
                (parameters, release) -> parameters.all(
                        release.state(),
                        release.readyAt(),
                        Json.attempts(release.attempts()),
                        release.lease().run()));
        runs.addOutputs(accepted.stream()
                .flatMap(release -> RunRows.OutputRow.of(
                        release,
                        Objects.requireNonNull(held.get(release.lease()))
                                .run()
                                .owed()
                                .planned()))
                .toList());
        return Set.copyOf(held.keySet());
    }

    boolean holdLease(LeaseKey lease) {
        return lockLeased(List.of(lease)).containsKey(lease);
    }

    /** {@return those of leases that still hold} */
    List<ProgressNote> progress(List<ProgressNote> notes) {
        int[] counts = sql.batch(
                "update brume_run set progress = ?, message = ? where id = ? and session_id = ? and fence = ?",
                notes,
                (parameters, note) -> parameters.all(
                        note.percent(),
                        note.message(),
                        note.lease().run(),
                        note.lease().session(),
                        note.lease().fence()));
        List<ProgressNote> accepted = new ArrayList<>();
        for (int i = 0; i < counts.length; i++) {
            if (counts[i] != 0) {
                accepted.add(notes.get(i));
            }
        }
        return accepted;
    }

    void printed(List<PrintedNote> notes) {
        sql.batch(
                "update brume_run set printed = ?, printed_bytes = ?, printed_left = ?, printed_fence = fence"
                        + " where id = ? and session_id = ? and fence = ?",
                notes,
                (parameters, note) -> parameters.all(
                        note.soFar().text(),
                        note.soFar().bytes(),
                        note.soFar().omitted(),
                        note.lease().run(),
                        note.lease().session(),
                        note.lease().fence()));
    }

    boolean ended(LeaseKey lease) {
        return sql.first(
                        "select run_id from brume_ledger where run_id = ? and session_id = ? and fence = ?",
                        row -> row.number("run_id"),
                        lease.run(),
                        lease.session(),
                        lease.fence())
                .isPresent();
    }

    Set<LeaseKey> recorded(Collection<LeaseKey> leases) {
        Set<LeaseKey> found = new HashSet<>();
        for (LeaseKey lease : leases) {
            boolean released = sql
                    .query(
                            "select attempts from brume_run where id = ?",
                            row -> Json.attempts(row.optionalText(1)),
                            lease.run())
                    .stream()
                    .flatMap(List::stream)
                    .anyMatch(attempt -> attempt.fence() == lease.fence());
            if (ended(lease) || released) {
                found.add(lease);
            }
        }
        return found;
    }
}
