package dev.brume.jdbc;

import static dev.brume.jdbc.Statements.places;

import dev.brume.RunState;
import dev.brume.history.RunRow;
import dev.brume.spi.Ability;
import dev.brume.spi.Claim;
import dev.brume.spi.Fence;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.function.Supplier;

/** Leases runs that are ready to a session, those that matter most first. */
final class ClaimRows {
    private final Statements sql;
    private final Dialect dialect;
    private final NumberSource numbers;
    private final Supplier<Instant> clock;

    ClaimRows(Statements sql, Dialect dialect, NumberSource numbers, Supplier<Instant> clock) {
        this.sql = sql;
        this.dialect = dialect;
        this.numbers = numbers;
        this.clock = clock;
    }

    List<RunRow> claim(Claim claim) {
        Instant now = clock.get();
        List<Long> ready = ready(claim, now);
        List<RunRow> locked = sql.in(
                "select " + Rows.RUN + " from brume_run where id in ",
                ready,
                " and state in ('PLANNED', 'BACKING_OFF') for update skip locked",
                Rows::run);
        List<RunRow> leased = new ArrayList<>();
        List<Long> fences = locked.isEmpty() ? List.of() : numbers.fences(locked.size());
        for (RunRow run : locked) {
            long fence = Fence.of(claim.epoch(), fences.get(leased.size()));
            RunRow.Lease lease = new RunRow.Lease(claim.session(), fence, now);
            leased.add(
                    run.moved(RunState.RUNNING, run.readyAt(), Optional.of(lease), run.attempts(), run.attempt() + 1));
        }
        sql.batch("""
                update brume_run
                set state = 'RUNNING', session_id = ?, fence = ?, leased_at = ?, attempt = ?, start_by = null
                where id = ?""", leased, (parameters, run) -> {
            RunRow.Lease lease = run.lease().orElseThrow();
            parameters.all(lease.session(), lease.fence(), lease.since(), run.attempt(), run.id());
        });
        leased.sort(Comparator.comparingInt(run -> ready.indexOf(run.id())));
        return leased;
    }

    /** Reads the ids of runs that may be claimed, in claim order, locking nothing. */
    private List<Long> ready(Claim claim, Instant now) {
        List<Ready> ready = new ArrayList<>();
        for (int priority = 9; priority >= 0 && (claim.oldestFirst() || ready.size() < claim.limit()); priority--) {
            int wanted = claim.oldestFirst() ? claim.limit() : claim.limit() - ready.size();
            ready.addAll(ready(claim, priority, now, wanted));
        }
        if (claim.oldestFirst()) {
            ready.sort(Comparator.comparing(Ready::since).thenComparing(Ready::run));
        }
        return ready.stream().map(Ready::run).limit(claim.limit()).toList();
    }

    private record Ready(long run, Instant since) {}

    private List<Ready> ready(Claim claim, int priority, Instant now, int limit) {
        List<Object> values = new ArrayList<>(List.of(claim.lane(), priority, now, now));
        claim.hint().ifPresent(values::add);
        String met = needsMet(claim.ability(), values);
        values.add(limit);
        String ready = dialect.readyColumn();
        return sql.query(
                "select id, ready_at from brume_run where state in ('PLANNED', 'BACKING_OFF') and lane = ? and priority = ? and "
                        + ready + " <= ? and (start_by is null or start_by > ?)"
                        + (claim.hint().isPresent() ? " and " + ready + " >= ?" : "") + met
                        + " order by " + ready + ", id limit ?",
                row -> new Ready(row.number("id"), row.instant("ready_at")),
                values.toArray());
    }

    /**
     * The condition that an instance has what a run needs; adds its values. Of the labels that a run needs, those that the
     * instance carries are struck out, and nothing may be left.
     */
    static String needsMet(Ability ability, List<Object> values) {
        String handler = ability.handlers().isEmpty()
                ? " and handler is null"
                : " and (handler is null or handler in "
                        + places(ability.handlers().size()) + ")";
        values.addAll(ability.handlers());
        List<String> labels = ability.labels().stream().sorted().toList();
        String left = "labels";
        for (String label : labels) {
            left = "replace(" + left + ", ?, '')";
            values.add("/" + label + "/");
        }
        String labelled = labels.isEmpty() ? " and labels is null" : " and (labels is null or " + left + " = '')";
        ability.session().ifPresent(values::add);
        String only = ability.session().isEmpty()
                ? " and only_session is null"
                : " and (only_session is null or only_session = ?)";
        return handler + labelled + only;
    }
}
