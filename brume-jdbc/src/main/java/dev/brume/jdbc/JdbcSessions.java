package dev.brume.jdbc;

import static dev.brume.jdbc.Statements.places;

import dev.brume.history.SessionRow;
import dev.brume.history.Vitals;
import dev.brume.spi.Renewal;
import dev.brume.spi.SessionLease;
import dev.brume.spi.SessionSteps;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import java.util.function.Supplier;
import java.util.function.UnaryOperator;

/** The statements on sessions and on the epoch. */
final class JdbcSessions implements SessionSteps {
    static final String ALL =
            "id, instance, host, pid, lanes, software, tzdata, epoch, state, opened_at, renewed_at, lease_until,"
                    + " ended_at, draining_at, labels, handlers, ahead_millis, vitals";

    private static final String SELECT = "select " + Rows.SESSION + " from brume_session";

    private final Statements sql;
    private final Dialect dialect;
    private final NumberSource numbers;
    private final Supplier<Instant> now;
    private final UnaryOperator<Instant> shifted;

    /**
     * Creates the steps.
     *
     * @param now what time it is
     * @param shifted what time it is taken to be when the database's clock says so
     */
    JdbcSessions(
            Statements sql,
            Dialect dialect,
            NumberSource numbers,
            Supplier<Instant> now,
            UnaryOperator<Instant> shifted) {
        this.sql = sql;
        this.dialect = dialect;
        this.numbers = numbers;
        this.now = now;
        this.shifted = shifted;
    }

    /** The clock is read after the row is locked. */
    @Override
    public Optional<Instant> hold(SessionLease lease) {
        record Held(Instant leaseUntil, Instant renewedAt, boolean same, Optional<Instant> clock) {}
        String held = "select lease_until, renewed_at, " + world()
                + " from brume_session where id = ? and state = 'OPEN'" + dialect.sessionHold();
        return sql.first(
                        dialect.withClock(held),
                        row -> new Held(
                                row.instant("lease_until"),
                                row.instant("renewed_at"),
                                isSame(row, lease),
                                dialect.readsClockBehindLock()
                                        ? Optional.of(shifted.apply(row.instant("clock")))
                                        : Optional.empty()),
                        lease.session())
                .filter(found -> found.same)
                .filter(found -> !found.renewedAt.isBefore(lease.renewedAt()))
                .flatMap(found -> Optional.of(found.clock.orElseGet(now)).filter(found.leaseUntil::isAfter));
    }

    /** The columns that tell whether this is still the same epoch, and the same history of the server. */
    private String world() {
        return "(select epoch from brume_cluster where id = 1) as epoch_now, " + dialect.timeline() + " as timeline";
    }

    private static boolean isSame(Row row, SessionLease lease) throws SQLException {
        return row.number("epoch_now") == lease.epoch() && row.text("timeline").equals(lease.timeline());
    }

    @Override
    public String timeline() {
        return sql.first("select " + dialect.timeline() + " as timeline", row -> row.text("timeline"))
                .orElseThrow();
    }

    @Override
    public String notedTimeline() {
        return sql.first(
                        "select timeline from brume_cluster where id = 1",
                        row -> row.optionalText("timeline").orElse(""))
                .orElse("");
    }

    @Override
    public void noteTimeline(String timeline) {
        sql.update("update brume_cluster set timeline = ? where id = 1", timeline);
    }

    @Override
    public long epoch() {
        return sql.first("select epoch from brume_cluster where id = 1 for update", row -> row.number("epoch"))
                .orElseThrow();
    }

    @Override
    public long highestEpoch() {
        return numbers.epoch();
    }

    @Override
    public long raiseEpoch(long known) {
        numbers.noteEpoch(known + 1);
        sql.update("update brume_cluster set epoch = ? where id = 1 and epoch <= ?", known + 1, known);
        return epoch();
    }

    @Override
    public void add(SessionRow session) {
        sql.update(
                "insert into brume_session (" + Rows.SESSION + ") values " + places(17),
                session.id(),
                session.instance(),
                session.host(),
                session.pid(),
                String.join(",", session.lanes()),
                Rows.joinLabels(session.labels()),
                session.software(),
                session.tzdata(),
                session.epoch(),
                session.state(),
                session.openedAt(),
                session.renewedAt(),
                session.leaseUntil(),
                session.endedAt(),
                session.handlers().map(names -> String.join("\n", names)),
                session.ahead().toMillis(),
                session.vitals().map(Vitals::toString));
    }

    @Override
    public Optional<Renewal> renew(SessionLease known, Duration lease, Vitals vitals) {
        record Locked(SessionRow row, boolean same) {}
        Optional<Locked> locked = sql.first(
                "select " + Rows.SESSION + ", " + world() + " from brume_session where id = ? for update",
                row -> new Locked(Rows.session(row), isSame(row, known)),
                known.session());
        Instant at = now.get();
        boolean live = locked.filter(found -> found.row.state() != SessionRow.State.ENDED)
                .filter(found -> !found.row.lapsedAt(at))
                .filter(found -> found.same)
                .isPresent();
        if (!live) {
            return Optional.empty();
        }
        sql.update(
                "update brume_session set renewed_at = ?, lease_until = ?, vitals = ? where id = ?",
                at,
                at.plus(lease).truncatedTo(ChronoUnit.MICROS),
                vitals.toString(),
                known.session());
        return Optional.of(new Renewal(at, locked.orElseThrow().row.state()));
    }

    @Override
    public void describe(UUID session, Collection<String> handlers, Duration ahead) {
        sql.update(
                "update brume_session set handlers = ?, ahead_millis = ? where id = ?",
                String.join("\n", handlers),
                ahead.toMillis(),
                session);
    }

    /** Locked by id, so that several who do this at once wait for each other in one order. */
    @Override
    public List<SessionRow> takingWork(Instant now) {
        return sql.query(
                "select " + Rows.SESSION + " from brume_session where state = 'OPEN' and lease_until > ? order by id",
                Rows::session,
                now);
    }

    @Override
    public List<SessionRow> holdOpen() {
        List<SessionRow> held =
                sql.query(SELECT + " where state = 'OPEN' order by id" + dialect.sessionHold(), Rows::session);
        Instant at = now.get();
        return held.stream().filter(row -> row.leaseUntil().isAfter(at)).toList();
    }

    @Override
    public Optional<SessionRow> lock(UUID session) {
        return sql.first(SELECT + " where id = ? for update", Rows::session, session);
    }

    @Override
    public List<SessionRow> lockOpenOf(String instance) {
        return sql.query(
                SELECT + " where instance = ? and state = 'OPEN' order by id for update", Rows::session, instance);
    }

    @Override
    public List<SessionRow> lapsed() {
        Instant at = now.get();
        return sql.query(
                SELECT + " where state = 'LAPSED' or state in ('OPEN', 'DRAINING') and (lease_until <= ?"
                        + " or renewed_at > ?) order by lease_until",
                Rows::session,
                at,
                at.plus(SessionRow.AHEAD));
    }

    @Override
    public void mark(UUID session, SessionRow.State state) {
        boolean over = state == SessionRow.State.LAPSED || state == SessionRow.State.ENDED;
        sql.update(
                "update brume_session set state = ?, ended_at = coalesce(ended_at, ?), draining_at = coalesce(draining_at, ?)"
                        + " where id = ?",
                state,
                over ? Optional.of(now.get()) : Optional.empty(),
                state == SessionRow.State.DRAINING ? Optional.of(now.get()) : Optional.empty(),
                session);
    }

    @Override
    public int forget(Instant endedBefore) {
        String old = " from brume_session where state = 'ENDED' and ended_at < ?";
        List<UUID> ids = sql.query("select id" + old + " for update", row -> row.uuid("id"), endedBefore);
        if (!ids.isEmpty()) {
            sql.update("insert into brume_past_session (" + ALL + ") select " + ALL + old, endedBefore);
            sql.update("delete" + old, endedBefore);
        }
        return ids.size();
    }
}
