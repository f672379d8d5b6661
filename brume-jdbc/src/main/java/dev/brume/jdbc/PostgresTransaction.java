package dev.brume.jdbc;

import dev.brume.GateKey;
import dev.brume.history.JobRow;
import dev.brume.history.LeaseKey;
import dev.brume.history.RunRow;
import dev.brume.spi.Claim;
import dev.brume.spi.Ended;
import dev.brume.spi.Fence;
import dev.brume.spi.JobAdvance;
import dev.brume.spi.RunEnd;
import dev.brume.spi.Settle;
import dev.brume.spi.Share;
import java.sql.Array;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/**
 * The hot path on PostgreSQL: a batch is one statement, its rows arrive as arrays.
 *
 * <p>Instants travel as microseconds since the epoch. Rows of the live table are found by a lateral look-up that cannot
 * be flattened into a join: on a table that churns, the planner's idea of its size is always wrong, and
 * a join flips to a plan that reads it whole. For the same reason the session of a lease is compared with
 * {@code is not distinct from}, which no index serves: the run's id is to lead, never the index of sessions.
 */
final class PostgresTransaction extends JdbcTransaction {
    private static final String LOCK_DUE =
            "select " + Rows.JOB + " from brume_job where next_at <= clock_timestamp()" + READABLE;
    private static final String LOCK_DUE_AT = "select " + Rows.JOB + " from brume_job where next_at = ?" + READABLE;
    private static final String DUE_ORDER = " order by next_at limit ? for update skip locked";

    private static final String ADVANCE = sql("""
            update brume_job j
            set cursor_at = @g.cursor_at,
                next_at = case when j.paused = 0 then least(@g.next_at, j.turn_at) else j.turn_at end,
                newest_run = g.newest,
                ended_run = g.ended,
                crowded = g.crowded
            from unnest(?::bigint[], ?::bigint[], ?::bigint[], ?::bigint[], ?::bigint[], ?::int[])
                as g(id, cursor_at, next_at, newest, ended, crowded)
            where j.id = g.id""");

    private static final String ADD_RUNS = sql("""
            insert into brume_run ({run}, one_off_key, follow_up)
            select id, job_id, @planned_at, slot, origin, nominal, zone, note, version, state, lane, priority, handler,
                labels, only_session, @ready_at, session_id, fence, @leased_at, attempts, attempt, payload, gates,
                @start_by, parent_run, shown_payload, ordered_by, traces,
                case when slot like '#%' then substr(slot, 2) end,
                case when parent_run is not null then job_id::text end
            from unnest(?::bigint[], ?::bigint[], ?::bigint[], ?::text[], ?::text[], ?::text[], ?::text[], ?::text[],
                ?::int[], ?::text[], ?::text[], ?::int[], ?::text[], ?::text[], ?::uuid[], ?::bigint[], ?::uuid[],
                ?::bigint[], ?::bigint[], ?::text[], ?::int[], ?::text[], ?::text[], ?::bigint[], ?::bigint[],
                ?::text[], ?::text[], ?::text[])
                as g({run})""");

    /**
     * The rows that leave the live table make the ledger lines, and the settle rows where something follows or somebody waits.
     *
     * <p>Of the row's lease only expressions are compared, so that its id leads and no other index. They are compared with arrays, not
     * with rows of what is given: a fence is given out once, so it alone tells the lease, and a join compares each row with each
     * where the planner takes the table for empty.
     */
    private static final String END = sql("""
            with given as materialized (
                select *
                from unnest(?::bigint[], ?::bigint[], ?::text[], ?::text[], ?::int[], ?::text[], ?::bigint[], ?::bigint[],
                    ?::text[], ?::text[], ?::bool[], ?::text[])
                    as g(run, lease_fence, outcome, reason, last_attempt, instance, started, ended, error, result,
                        settles, trace)
            ), gone as (
                delete from brume_run
                where id = any (?::bigint[])
                and fence + 0 = any (?::bigint[])
                and coalesce(session_id, uuid '00000000-0000-0000-0000-000000000000') = any (?::uuid[])
                returning id, job_id, planned_at, slot, origin, nominal, zone, note, version, lane, ready_at, session_id,
                    fence, attempts, coalesce(shown_payload, payload) as payload, one_off_key, parent_run, follow_up,
                    gates, ordered_by, awaited
            ), ended as materialized (
                select gone.*, g.outcome, g.reason, g.last_attempt, g.instance, @g.started as started_at,
                    @g.ended as ended_at, g.error, g.result, g.trace, g.settles or gone.awaited <> 0 as settles
                from gone
                join given g on g.lease_fence = gone.fence and g.run = gone.id
            ), settled as (
                insert into brume_settle (run_id, job_id, version, outcome, ended_at, gates, trace)
                select id, job_id, version, outcome, ended_at, gates, trace
                from ended
                where settles
            ), recorded as (
                insert into brume_ledger (run_id, job_id, planned_at, slot, origin, nominal, zone, note, version, lane,
                    ready_at, outcome, reason, attempt, instance, session_id, fence, started_at, ended_at, earlier,
                    one_off_key, parent_run, follow_up, ordered_by, trace, recorded_at)
                select id, job_id, planned_at, slot, origin, nominal, zone, note, version, lane, ready_at, outcome,
                    reason, last_attempt, instance, session_id, fence, started_at, ended_at,
                    case when attempts is not null then
                        (select json_agg(a - 'error' order by n)::text
                            from jsonb_array_elements(attempts::jsonb) with ordinality as e(a, n))
                    end,
                    one_off_key, parent_run, follow_up, ordered_by, trace, clock_timestamp()
                from ended
            ), told as (
                insert into brume_content (run_id, planned_at, payload, result, error, errors)
                select id, planned_at, payload, result, error,
                    (select json_object_agg(a ->> 'number', a ->> 'error')::text
                        from jsonb_array_elements(attempts::jsonb) a
                        where a ->> 'error' is not null)
                from ended
                where coalesce(payload, result, error) is not null or attempts like '%"error":%'
            )
            select id, session_id, fence, settles, planned_at
            from ended""");

    private static final String CLAIM = sql("""
            with ready as materialized (
                select r.id
                from (values (9), (8), (7), (6), (5), (4), (3), (2), (1), (0)) as p(priority)
                cross join lateral (
                    select x.id, x.ready_at
                    from brume_run x
                    where x.state in ('PLANNED', 'BACKING_OFF') and x.lane = ? and x.priority = p.priority
                        and x.ready_at <= clock_timestamp() and (x.start_by is null or x.start_by > clock_timestamp())
                        {met}
                    order by x.ready_at
                    limit ?
                ) r
                order by {order}r.ready_at, r.id
                limit ?
            ), locked as materialized (
                select l.place
                from ready
                cross join lateral (
                    select x.ctid as place
                    from brume_run x
                    where x.id = ready.id and x.state || '' in ('PLANNED', 'BACKING_OFF')
                    offset 0
                    for update skip locked
                ) l
            )
            update brume_run
            set state = 'RUNNING', session_id = ?, fence = ? + nextval('brume_fence_number'),
                leased_at = clock_timestamp(), attempt = attempt + 1, start_by = null
            where ctid = any (array(select place from locked))
            returning {run}""");

    private static final String TAKE_UNSETTLED = """
            with picked as materialized (
                select s.place
                from unnest(?::bigint[]) as g(run)
                cross join lateral (
                    select x.ctid as place
                    from brume_settle x
                    where x.run_id = g.run
                    offset 0
                    for update skip locked
                ) s
            )
            delete from brume_settle
            where ctid = any (array(select place from picked))
            returning run_id, job_id, version, outcome, ended_at, gates, waited, trace""";

    /** Puts in the columns of a live run, and turns microseconds into instants; exact, as the arithmetic is on whole numbers. */
    private static String sql(String text) {
        return text.replace("{run}", Rows.RUN)
                .replaceAll("@([\\w.]+)", "timestamptz 'epoch' + $1 * interval '1 microsecond'");
    }

    PostgresTransaction(Statements sql, VersionReader versions, Feeding feeding, Noting noting) {
        super(
                sql,
                Dialect.POSTGRESQL,
                versions,
                new NumberSource.Sequences(sql, Dialect.POSTGRESQL),
                feeding,
                noting,
                Optional::empty);
    }

    static long micros(Instant instant) {
        return instant.getEpochSecond() * 1_000_000 + instant.getNano() / 1000;
    }

    private <T> Array longs(List<T> items, Function<T, @Nullable Long> value) {
        return sql.array("int8", items.stream().map(value).toArray(Long[]::new));
    }

    private <T> Array ints(List<T> items, Function<T, Integer> value) {
        return sql.array("int4", items.stream().map(value).toArray(Integer[]::new));
    }

    private <T> Array texts(List<T> items, Function<T, Object> value) {
        return sql.array(
                "text", items.stream().map(item -> text(value.apply(item))).toArray(String[]::new));
    }

    private <T> Array uuids(List<T> items, Function<T, Object> value) {
        return sql.array("uuid", items.stream().map(value).toArray());
    }

    private static @Nullable String text(@Nullable Object value) {
        if (value instanceof Optional<?> optional) {
            return optional.map(PostgresTransaction::text).orElse(null);
        }
        return value instanceof Enum<?> constant ? constant.name() : (String) value;
    }

    @Override
    public List<JobRow> lockDueJobs(Optional<Instant> hint, Optional<Instant> trusted, Share share, int limit) {
        if (trusted.isPresent()) {
            return super.lockDueJobs(hint, trusted, share, limit);
        }
        List<Object> values = new ArrayList<>();
        hint.ifPresent(values::add);
        String own = ShareCondition.of(share, values);
        values.add(limit);
        String from = hint.isPresent() ? " and next_at >= ?" : "";
        return counted(sql.query(LOCK_DUE + from + own + DUE_ORDER, Rows::job, values.toArray()));
    }

    @Override
    public List<JobRow> lockJobsDueAt(Instant due, Share share, int limit) {
        List<Object> values = new ArrayList<>(List.of(due));
        String own = ShareCondition.of(share, values);
        values.add(limit);
        return counted(sql.query(LOCK_DUE_AT + own + DUE_ORDER, Rows::job, values.toArray()));
    }

    @Override
    public void advance(List<JobAdvance> changes) {
        List<JobAdvance> all =
                changes.stream().sorted(Comparator.comparing(JobAdvance::id)).toList();
        sql.update(
                ADVANCE,
                longs(all, JobAdvance::id),
                longs(all, change -> micros(change.cursor())),
                longs(
                        all,
                        change ->
                                change.nextAt().map(PostgresTransaction::micros).orElse(null)),
                longs(all, change -> change.runs().newest().orElse(null)),
                longs(all, change -> change.runs().ended().orElse(null)),
                ints(all, change -> change.runs().crowded() ? 1 : 0));
        advanceAfterEnds(all);
    }

    @Override
    protected void insert(List<RunRow> runs) {
        sql.update(
                ADD_RUNS,
                longs(runs, RunRow::id),
                longs(runs, run -> run.owed().job()),
                longs(runs, run -> micros(run.owed().planned())),
                texts(runs, run -> run.owed().slot()),
                texts(runs, run -> run.owed().origin()),
                texts(runs, run -> run.owed().nominal().toString()),
                texts(runs, run -> run.owed().zone()),
                texts(runs, run -> run.owed().note()),
                ints(runs, RunRow::version),
                texts(runs, RunRow::state),
                texts(runs, RunRow::lane),
                ints(runs, RunRow::priority),
                texts(runs, run -> run.needs().handler()),
                texts(runs, run -> Rows.joinLabels(run.needs().labels())),
                uuids(runs, run -> run.needs().session().orElse(null)),
                longs(runs, run -> micros(run.readyAt())),
                uuids(runs, run -> run.lease().map(RunRow.Lease::session).orElse(null)),
                longs(runs, run -> run.lease().map(RunRow.Lease::fence).orElse(null)),
                longs(
                        runs,
                        run -> run.lease().map(lease -> micros(lease.since())).orElse(null)),
                texts(runs, run -> Json.attempts(run.attempts())),
                ints(runs, RunRow::attempt),
                texts(runs, RunRow::payload),
                texts(runs, run -> GateKey.join(run.gates())),
                longs(
                        runs,
                        run -> run.startBy().map(PostgresTransaction::micros).orElse(null)),
                longs(runs, run -> run.owed().parent().orElse(null)),
                texts(runs, RunRow::shownPayload),
                texts(runs, run -> run.owed().orderedBy()),
                texts(runs, RunRow::traces));
    }

    /** Finds, locks, leases and reads in one statement. */
    @Override
    protected List<RunRow> lease(Claim claim) {
        List<Object> values = new ArrayList<>(List.of(claim.lane()));
        claim.hint().ifPresent(values::add);
        String met = ClaimRows.needsMet(claim.ability(), values);
        values.addAll(List.of(claim.limit(), claim.limit(), claim.session(), Fence.of(claim.epoch(), 0)));
        List<RunRow> leased = sql.query(
                CLAIM.replace("{met}", (claim.hint().isPresent() ? " and x.ready_at >= ?" : "") + met)
                        .replace("{order}", claim.oldestFirst() ? "" : "p.priority desc, "),
                Rows::run,
                values.toArray());
        return leased.stream()
                .sorted(Comparator.comparingInt((RunRow run) -> claim.oldestFirst() ? 0 : -run.priority())
                        .thenComparing(RunRow::readyAt)
                        .thenComparing(RunRow::id))
                .toList();
    }

    @Override
    protected Ended moveToLedger(List<RunEnd> ends) {
        List<RunEnd> all = ends.stream()
                .sorted(Comparator.comparing(end -> end.lease().run()))
                .toList();
        Set<Long> unsettled = new HashSet<>();
        Map<LeaseKey, Instant> accepted = new HashMap<>();
        sql.query(
                END,
                row -> {
                    if (row.truth("settles")) {
                        unsettled.add(row.number(1));
                    }
                    return accepted.put(
                            new LeaseKey(row.number(1), row.uuid("session_id"), row.number(3)),
                            row.instant("planned_at"));
                },
                longs(all, end -> end.lease().run()),
                longs(all, end -> end.lease().fence()),
                texts(all, RunEnd::outcome),
                texts(all, RunEnd::reason),
                ints(all, end -> end.last().number()),
                texts(all, end -> end.last().instance()),
                longs(all, end -> micros(end.last().startedAt())),
                longs(
                        all,
                        end -> end.last()
                                .endedAt()
                                .map(PostgresTransaction::micros)
                                .orElse(null)),
                texts(all, end -> end.last().error()),
                texts(all, RunEnd::result),
                sql.array("bool", all.stream().map(RunEnd::settles).toArray()),
                texts(all, end -> end.last().trace()),
                longs(all, end -> end.lease().run()),
                longs(all, end -> end.lease().fence()),
                sql.array(
                        "uuid",
                        all.stream()
                                .map(end -> end.lease().session())
                                .distinct()
                                .toArray()));
        runs.addOutputs(all.stream()
                .filter(end -> accepted.containsKey(end.lease()))
                .flatMap(end -> RunRows.OutputRow.of(end, Objects.requireNonNull(accepted.get(end.lease()))))
                .toList());
        return new Ended(Set.copyOf(accepted.keySet()), unsettled);
    }

    @Override
    public void mayBeForgotten() {
        sql.query("select set_config('synchronous_commit', 'off', true)", row -> row.text(1));
    }

    @Override
    public List<Settle> takeUnsettled(Collection<Long> runs) {
        List<Long> ids = runs.stream().sorted().toList();
        if (ids.isEmpty()) {
            return List.of();
        }
        return sql.query(TAKE_UNSETTLED, SettleRows::settle, longs(ids, Function.identity()));
    }
}
