package dev.brume.memory;

import dev.brume.history.SessionRow;
import dev.brume.history.Vitals;
import dev.brume.spi.Renewal;
import dev.brume.spi.SessionLease;
import dev.brume.spi.SessionSteps;
import java.time.Duration;
import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import java.util.function.Supplier;

/** Sessions, and whether their leases hold. */
final class MemorySessions implements SessionSteps {
    private final Tables tables;
    private final Supplier<Instant> clock;

    MemorySessions(Tables tables, Supplier<Instant> clock) {
        this.tables = tables;
        this.clock = clock;
    }

    @Override
    public Optional<Instant> hold(SessionLease lease) {
        SessionRow row = tables.sessions.get(lease.session());
        boolean held = row != null
                && row.state() == SessionRow.State.OPEN
                && row.leaseUntil().isAfter(clock.get())
                && !row.renewedAt().isBefore(lease.renewedAt())
                && tables.epoch() == lease.epoch()
                && tables.timeline().equals(lease.timeline());
        return held ? Optional.of(clock.get()) : Optional.empty();
    }

    @Override
    public List<SessionRow> takingWork(Instant now) {
        return tables.sessions.values().stream()
                .filter(row ->
                        row.state() == SessionRow.State.OPEN && row.leaseUntil().isAfter(now))
                .toList();
    }

    @Override
    public List<SessionRow> holdOpen() {
        return takingWork(clock.get());
    }

    @Override
    public void add(SessionRow session) {
        tables.put(tables.sessions, session.id(), session);
    }

    @Override
    public Optional<Renewal> renew(SessionLease known, Duration lease, Vitals vitals) {
        UUID session = known.session();
        SessionRow row = tables.sessions.get(session);
        Instant now = clock.get();
        if (row == null
                || row.state() == SessionRow.State.ENDED
                || row.lapsedAt(now)
                || tables.epoch() != known.epoch()
                || !tables.timeline().equals(known.timeline())) {
            return Optional.empty();
        }
        tables.put(tables.sessions, session, row.renewed(now, now.plus(lease), Optional.of(vitals)));
        return Optional.of(new Renewal(now, row.state()));
    }

    @Override
    public List<SessionRow> lockOpenOf(String instance) {
        return tables.sessions.values().stream()
                .filter(row -> row.instance().equals(instance))
                .filter(row -> row.state() == SessionRow.State.OPEN)
                .toList();
    }

    @Override
    public void describe(UUID session, Collection<String> handlers, Duration ahead) {
        SessionRow row = tables.sessions.get(session);
        if (row != null) {
            Optional<List<String>> names = Optional.of(List.copyOf(handlers));
            tables.put(
                    tables.sessions,
                    session,
                    new SessionRow(
                            row.id(),
                            row.instance(),
                            row.host(),
                            row.pid(),
                            row.lanes(),
                            row.labels(),
                            row.software(),
                            row.tzdata(),
                            row.epoch(),
                            row.state(),
                            row.openedAt(),
                            row.renewedAt(),
                            row.leaseUntil(),
                            row.endedAt(),
                            names,
                            ahead,
                            row.vitals()));
        }
    }

    @Override
    public List<SessionRow> lapsed() {
        Instant now = clock.get();
        return tables.sessions.values().stream()
                .filter(row -> row.lapsedAt(now) || row.isFromTheFuture(now))
                .toList();
    }

    @Override
    public void mark(UUID session, SessionRow.State state) {
        SessionRow row = Tables.row(tables.sessions, session);
        boolean over = state == SessionRow.State.LAPSED || state == SessionRow.State.ENDED;
        Optional<Instant> endedAt = over ? row.endedAt().or(() -> Optional.of(clock.get())) : Optional.empty();
        tables.put(tables.sessions, session, row.at(state, endedAt));
        if (state == SessionRow.State.DRAINING && !tables.drainingSince.containsKey(session)) {
            tables.put(tables.drainingSince, session, clock.get());
        }
    }

    @Override
    public int forget(Instant endedBefore) {
        List<UUID> old = tables.sessions.values().stream()
                .filter(row -> row.state() == SessionRow.State.ENDED)
                .filter(row ->
                        row.endedAt().filter(at -> at.isBefore(endedBefore)).isPresent())
                .map(SessionRow::id)
                .toList();
        old.forEach(id -> {
            tables.put(tables.pastSessions, id, Tables.row(tables.sessions, id));
            tables.remove(tables.sessions, id);
        });
        return old.size();
    }

    @Override
    public long epoch() {
        return tables.epoch();
    }

    @Override
    public long raiseEpoch(long known) {
        while (tables.epoch() <= known) {
            tables.next("epoch");
        }
        return tables.epoch();
    }

    @Override
    public String timeline() {
        return tables.timeline();
    }

    @Override
    public String notedTimeline() {
        return tables.notes.getOrDefault("timeline", "");
    }

    @Override
    public void noteTimeline(String timeline) {
        tables.put(tables.notes, "timeline", timeline);
    }

    @Override
    public Optional<SessionRow> lock(UUID session) {
        return Optional.ofNullable(tables.sessions.get(session));
    }
}
