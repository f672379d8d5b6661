package dev.brume.duties;

import dev.brume.Event;
import dev.brume.StopReason;
import dev.brume.port.Change;
import dev.brume.port.SessionRow;
import dev.brume.port.StoreException;
import dev.brume.port.Transaction;
import dev.brume.schedule.Durations;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import java.util.function.Supplier;

/**
 * Keeps the session: opens it, renews it, and notices when it is lost.
 *
 * <p>The lease counts from before it was asked for, on the monotonic clock. Before it runs out
 * unrenewed, the runs are told, so that they can stop while nobody else has them yet. A session that is
 * gone from the database altogether, or older there than it was, means that the database is an older
 * copy: the epoch rises, so that every fence from now on beats those given out before.
 */
public final class KeepDuty implements Duty {
    private static final String SOFTWARE = Optional.ofNullable(
                    KeepDuty.class.getPackage().getImplementationVersion())
            .orElse("dev");

    private final Instance instance;
    private final Supplier<UUID> ids;
    private final ZoneRulesDuty zoneRules;
    private Instant renewedAt;
    private long knownEpoch = -1;
    private boolean told;

    /**
     * Creates the duty.
     *
     * @param ids gives each session its random id
     */
    public KeepDuty(Instance instance, Supplier<UUID> ids) {
        this.instance = instance;
        this.ids = ids;
        this.zoneRules = new ZoneRulesDuty(instance);
    }

    @Override
    public Duration step() {
        try {
            if (instance.session().isEmpty()) {
                open();
            } else {
                renew();
            }
            told = false;
            return instance.settings().renewal();
        } catch (StoreException e) {
            giveUpInTime(e);
            return instance.settings().lease().dividedBy(15);
        }
    }

    private void open() {
        long asked = instance.time().nanos();
        UUID id = ids.get();
        SessionRow row = instance.transact(tx -> open(tx, id));
        instance.session(new Instance.Session(
                id, row.epoch(), asked + instance.settings().lease().toNanos()));
        knownEpoch = row.epoch();
        renewedAt = row.renewedAt();
        instance.readClock(row.openedAt(), instance.time().nanos());
        instance.tell(
                Event.Kind.JOINED,
                "lanes " + String.join(", ", row.lanes()) + ", lease "
                        + Durations.format(instance.settings().lease()));
        checkZoneRules();
    }

    private void checkZoneRules() {
        try {
            zoneRules.step();
        } catch (StoreException e) {
            instance.tellProblem("zone rules could not be compared with those of the database", e);
        }
    }

    private SessionRow open(Transaction tx, UUID id) {
        Settings settings = instance.settings();
        long epoch = tx.epoch();
        Instant now = tx.now();
        List<String> lanes = settings.lanes().entrySet().stream()
                .map(lane -> lane.getKey() + "=" + lane.getValue())
                .sorted()
                .toList();
        SessionRow row = new SessionRow(
                id,
                settings.instance(),
                settings.host(),
                settings.pid(),
                lanes,
                SOFTWARE,
                settings.tzdata(),
                epoch,
                SessionRow.State.OPEN,
                now,
                now,
                now.plus(settings.lease()),
                Optional.empty());
        tx.addSession(row);
        tx.addChanges(List.of(change("JOINED", "session " + id)));
        return row;
    }

    private void renew() {
        Instance.Session session = instance.session().orElseThrow();
        long asked = instance.time().nanos();
        Optional<Instant> renewed = instance.transact(
                tx -> tx.renew(session.id(), instance.settings().lease()));
        if (renewed.isPresent()) {
            instance.session(session.renewed(asked + instance.settings().lease().toNanos()));
            instance.readClock(renewed.get(), instance.time().nanos());
            renewedAt = renewed.get();
        } else {
            replaceLost(session);
        }
    }

    private void replaceLost(Instance.Session session) {
        boolean olderCopy = instance.transact(tx -> raiseEpochIfOlder(tx, session));
        tellRuns(
                olderCopy
                        ? "the database is an older copy of itself: a new epoch begins"
                        : "the session was not renewed in time");
        instance.held().forEach(instance::letGo);
        instance.session(null);
        open();
    }

    private boolean raiseEpochIfOlder(Transaction tx, Instance.Session session) {
        Optional<SessionRow> row = tx.lockSession(session.id());
        if (row.isPresent() && !row.get().renewedAt().isBefore(renewedAt)) {
            return false;
        }
        long epoch = tx.raiseEpoch(knownEpoch);
        tx.addChanges(List.of(change(
                "EPOCH_RAISED",
                "to " + epoch + ": session " + session.id()
                        + (row.isPresent() ? " is older than remembered" : " is gone"))));
        return true;
    }

    /** Tells the runs while their lease still holds, once. */
    private void giveUpInTime(StoreException trouble) {
        boolean over = instance.session().isPresent() && instance.liveSession().isEmpty();
        if (over && !told) {
            tellRuns("could not be renewed: " + trouble.getMessage());
        } else if (!over) {
            String what = instance.session().isPresent() ? "renewed" : "opened";
            instance.tellProblem("the session could not be " + what + " yet", trouble);
        }
        told |= over;
    }

    private void tellRuns(String why) {
        instance.tell(Event.Kind.LEASE_LOST, why);
        instance.held().forEach(run -> instance.workers().stop(run, StopReason.LEASE_LOST));
    }

    /** Lets everyone see that the instance takes no more work. */
    public void drain() {
        instance.sessionId()
                .ifPresent(id -> instance.transact(tx -> {
                    if (tx.lockSession(id)
                            .filter(row -> row.state() == SessionRow.State.OPEN)
                            .isPresent()) {
                        tx.markSession(id, SessionRow.State.DRAINING);
                    }
                    return null;
                }));
    }

    /** Ends the session when the instance stops. */
    public void close() {
        Optional<Instance.Session> session = instance.session();
        if (session.isEmpty()) {
            return;
        }
        UUID id = session.get().id();
        instance.transact(tx -> {
            if (tx.lockSession(id).isPresent()) {
                tx.markSession(id, SessionRow.State.ENDED);
                tx.addChanges(List.of(change("LEFT", "session " + id)));
            }
            return null;
        });
        instance.session(null);
        instance.tell(Event.Kind.LEFT, "stopped");
    }

    private Change change(String kind, String text) {
        Settings settings = instance.settings();
        return new Change(
                kind, settings.instance(), settings.host(), Optional.empty(), Optional.empty(), Optional.empty(), text);
    }
}
