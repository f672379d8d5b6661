package dev.brume.internal.session;

import dev.brume.Event;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.StoreException;
import dev.brume.history.Change;
import dev.brume.history.SessionRow;
import dev.brume.history.Vitals;
import dev.brume.internal.define.ZoneRulesDuty;
import dev.brume.internal.duty.Duty;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.duty.Settings;
import dev.brume.internal.duty.Turns;
import dev.brume.schedule.Durations;
import dev.brume.spi.Renewal;
import dev.brume.spi.SessionLease;
import dev.brume.spi.Share;
import dev.brume.spi.Transaction;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
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
public final class RenewDuty implements Duty {
    private static final String SOFTWARE = Optional.ofNullable(
                    RenewDuty.class.getPackage().getImplementationVersion())
            .orElse("dev");

    /** By how much a clock's being ahead must change to be noted anew. */
    private static final Duration WORTH_WRITING = Duration.ofSeconds(1);

    private final Instance instance;
    private final Supplier<UUID> ids;
    private final ZoneRulesDuty zoneRules;
    private Described described = new Described(List.of(), Duration.ZERO);
    private long knownEpoch = -1;

    /** The others of this instance's name, and when they had renewed when they were seen first; or that they were told of. */
    private final Map<UUID, Instant> namesakes = new HashMap<>();

    private Optional<Instance.Session> givingUp = Optional.empty();

    /**
     * Creates the duty.
     *
     * @param ids gives each session its random id
     */
    public RenewDuty(Instance instance, Supplier<UUID> ids) {
        this.instance = instance;
        this.ids = ids;
        this.zoneRules = new ZoneRulesDuty(instance);
    }

    @Override
    public Duration step() {
        Optional<Turns.Stuck> stuck = instance.turns().stuck(instance.time().nanos());
        if (stuck.isPresent()) {
            giveUpLease(stuck.get());
            return instance.settings().lease().dividedBy(15);
        }
        try {
            if (instance.session().isEmpty()) {
                open();
            } else {
                renew();
            }
            return instance.settings().renewal();
        } catch (StoreException e) {
            giveUpInTime(e);
            return instance.settings().lease().dividedBy(15);
        }
    }

    /** Renews no more, and forgets the session when its lease is over: by then others may have taken over. */
    private void giveUpLease(Turns.Stuck stuck) {
        Optional<Instance.Session> session = instance.session();
        if (session.isEmpty()) {
            return;
        }
        if (!givingUp.equals(session)) {
            givingUp = session;
            String text = stuck.text() + "; the session is not renewed any more, so that others take over";
            instance.tellProblem(text);
            noteGivingUp(text);
        }
        if (instance.liveSession().isEmpty()) {
            instance.leaseEnds(session.get(), stuck.text());
        }
        if (instance.time().nanos() - session.get().leaseEndNanos() >= 0) {
            instance.held().forEach(instance::letGo);
            instance.session(null);
            instance.turns().gaveUp(instance.time().nanos());
        }
    }

    private void noteGivingUp(String text) {
        try {
            instance.transact(tx -> {
                tx.addChanges(List.of(change("GAVE_UP", text)));
                return null;
            });
        } catch (StoreException e) {
            instance.tellProblem("that the session is given up could not be written", e);
        }
    }

    private void open() {
        long asked = instance.time().nanos();
        UUID id = ids.get();
        Opened opened = instance.transactReserved(tx -> open(tx, id));
        instance.definitions().clear();
        instance.store().forget();
        SessionRow row = opened.row;
        instance.session(new Instance.Session(
                id,
                row.epoch(),
                asked + instance.settings().lease().toNanos(),
                new SessionLease(id, row.epoch(), row.renewedAt(), opened.timeline)));
        knownEpoch = row.epoch();
        readShare(id, row.openedAt());
        tellSkew(row.openedAt());
        instance.readClock(row.openedAt(), asked);
        described = new Described(row.handlers().orElseThrow(), row.ahead());
        instance.tell(
                Event.Kind.JOINED,
                "lanes " + String.join(", ", row.lanes()) + ", lease "
                        + Durations.format(instance.settings().lease()) + ", on "
                        + instance.store().description() + ", brume " + row.software());
        checkZoneRules();
    }

    /** Another that is named so lives if it renews: one that has died may have a lease for a while. */
    private void watchNamesakes(UUID own, List<SessionRow> working) {
        Set<UUID> there = new HashSet<>();
        for (SessionRow other : working) {
            if (other.instance().equals(instance.settings().instance())
                    && !other.id().equals(own)) {
                there.add(other.id());
                Instant before = namesakes.putIfAbsent(other.id(), other.renewedAt());
                if (before != null && other.renewedAt().isAfter(before)) {
                    namesakes.put(other.id(), Instant.MAX);
                    tellNamesake(other);
                }
            }
        }
        namesakes.keySet().retainAll(there);
    }

    private void tellNamesake(SessionRow other) {
        instance.tell(
                Event.Kind.PROBLEM,
                "another instance that lives is named " + other.instance() + " too, on " + other.host() + ", process "
                        + other.pid() + ": logs and brume drain cannot tell them apart, and one of them alone gets the"
                        + " runs of jobs that run on each instance; give each a name of its own, or none");
    }

    private void checkZoneRules() {
        try {
            zoneRules.step();
        } catch (StoreException e) {
            instance.tellProblem("zone rules could not be compared with those of the database", e);
        }
    }

    private void tellSkew(Instant database) {
        Duration skew = Duration.between(database, instance.time().wall());
        if (skew.abs().compareTo(instance.settings().lease().dividedBy(3)) > 0) {
            instance.tell(
                    Event.Kind.PROBLEM,
                    "the wall clock of this machine is "
                            + Durations.format(skew.abs().truncatedTo(ChronoUnit.SECONDS))
                            + (skew.isNegative() ? " behind" : " ahead of")
                            + " the database's; the database's decides");
        }
    }

    private record Opened(SessionRow row, String timeline) {}

    private Opened open(Transaction tx, UUID id) {
        Settings settings = instance.settings();
        String timeline = tx.sessions().timeline();
        long epoch = Epochs.current(instance, tx);
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
                settings.labels().stream().sorted().toList(),
                SOFTWARE,
                settings.tzdata(),
                epoch,
                SessionRow.State.OPEN,
                now,
                now,
                now.plus(settings.lease()),
                Optional.empty(),
                Optional.of(handlers()),
                ahead(now),
                Optional.of(OwnVitals.read()));
        tx.sessions().add(row);
        tx.addChanges(List.of(change("JOINED", "session " + id)));
        return new Opened(row, timeline);
    }

    private List<String> handlers() {
        return instance.handlers().stream().sorted().toList();
    }

    private Duration ahead(Instant database) {
        return Duration.between(database, instance.time().wall()).truncatedTo(ChronoUnit.MILLIS);
    }

    /** The description of this instance, as it was last written for others to read. */
    private record Described(List<String> handlers, Duration ahead) {
        boolean isNoLonger(List<String> names, Duration now) {
            return !handlers.equals(names) || ahead.minus(now).abs().compareTo(WORTH_WRITING) > 0;
        }
    }

    private void renew() {
        Instance.Session session = instance.session().orElseThrow();
        Vitals vitals = OwnVitals.read();
        long asked = instance.time().nanos();
        Optional<Renewal> renewed = instance.transactReserved(
                tx -> tx.sessions().renew(session.lease(), instance.settings().lease(), vitals));
        if (renewed.isPresent()) {
            Instant at = renewed.get().at();
            instance.session(
                    session.renewed(at, asked + instance.settings().lease().toNanos()));
            Optional<Duration> jump = instance.readClock(at, asked);
            readShare(session.id(), at);
            describe(session.id(), ahead(at), jump);
            if (renewed.get().state() == SessionRow.State.DRAINING) {
                instance.askedToDrain();
            }
        } else {
            replaceLost(session);
        }
    }

    /** That the others cannot be read, or one of them not be understood, costs no lease: this instance looks for all jobs then. */
    private void readShare(UUID session, Instant now) {
        try {
            List<SessionRow> working =
                    instance.transactReserved(tx -> tx.sessions().takingWork(now));
            instance.share(Shares.of(session, working));
            watchNamesakes(session, working);
        } catch (RuntimeException e) {
            instance.share(Share.WHOLE);
            instance.tellProblem(
                    "which other instances plan jobs could not be read; this one looks for all of them", e);
        }
    }

    /** Most renewals have nothing to add. */
    private void describe(UUID session, Duration ahead, Optional<Duration> jump) {
        Described now = new Described(handlers(), ahead);
        boolean told = described.isNoLonger(now.handlers, now.ahead);
        if (told || jump.isPresent()) {
            instance.transact(tx -> {
                tx.sessions().describe(session, now.handlers, now.ahead);
                jump.ifPresent(by -> tx.addChanges(List.of(change(
                        "CLOCK_JUMPED",
                        "the database's clock by " + (by.isNegative() ? "-" : "+") + Durations.format(by.abs())
                                + " against this machine's"))));
                return null;
            });
            described = now;
        }
    }

    private void replaceLost(Instance.Session session) {
        boolean olderCopy = instance.transact(tx -> raiseEpochIfOlder(tx, session));
        instance.leaseEnds(
                session,
                olderCopy
                        ? "the database is an older copy of itself: a new epoch begins"
                        : "the session was not renewed in time");
        instance.held().forEach(instance::letGo);
        instance.session(null);
        open();
    }

    private boolean raiseEpochIfOlder(Transaction tx, Instance.Session session) {
        Optional<SessionRow> row = tx.sessions().lock(session.id());
        boolean sameHistory = tx.sessions().timeline().equals(session.lease().timeline());
        if (sameHistory
                && row.isPresent()
                && !row.get().renewedAt().isBefore(session.lease().renewedAt())) {
            return false;
        }
        long epoch = tx.sessions().raiseEpoch(knownEpoch);
        tx.addChanges(List.of(change(
                "EPOCH_RAISED",
                "to " + epoch + ": session " + session.id()
                        + (row.isEmpty() ? " is gone" : sameHistory ? " is older than remembered" : " is in a copy"))));
        tx.sessions().noteTimeline(tx.sessions().timeline());
        return true;
    }

    /** Tells the runs while their lease still holds, once. */
    private void giveUpInTime(StoreException trouble) {
        Optional<Instance.Session> session = instance.session();
        if (session.isPresent() && instance.liveSession().isEmpty()) {
            instance.leaseEnds(session.get(), "could not be renewed: " + trouble.getMessage());
        } else {
            String what = session.isPresent() ? "renewed" : "opened";
            instance.tellProblem("the session could not be " + what + " yet", trouble);
        }
    }

    /** Lets everyone see what the instance can do by now, rather than at its next renewal. */
    public void describe() {
        instance.session()
                .filter(session -> !described.handlers.equals(handlers()))
                .ifPresent(session -> describe(session.id(), described.ahead, Optional.empty()));
    }

    /** Lets everyone see that the instance takes no more work. */
    public void drain() {
        instance.sessionId()
                .ifPresent(id -> instance.transact(tx -> {
                    if (tx.sessions()
                            .lock(id)
                            .filter(row -> row.state() == SessionRow.State.OPEN)
                            .isPresent()) {
                        tx.sessions().mark(id, SessionRow.State.DRAINING);
                    }
                    return null;
                }));
    }

    /** Ends the session when the instance stops. */
    public void close() {
        try {
            endSession();
        } finally {
            instance.store().releaseReserved();
        }
    }

    private void endSession() {
        Optional<Instance.Session> session = instance.session();
        if (session.isEmpty()) {
            return;
        }
        UUID id = session.get().id();
        instance.transact(tx -> {
            if (tx.sessions().lock(id).isPresent()) {
                endWhatOnlyItOwes(tx, id);
                tx.sessions().mark(id, SessionRow.State.ENDED);
                tx.addChanges(List.of(change("LEFT", "session " + id)));
            }
            return null;
        });
        instance.session(null);
        instance.tell(Event.Kind.LEFT, "stopped");
    }

    /**
     * Ends the waiting runs that a locked session owes and nobody else may take; who settles them finds them by their settle
     * rows. No more can come: whoever plans holds the session open.
     */
    static void endWhatOnlyItOwes(Transaction tx, UUID session) {
        tx.waitingOnlyFor(session).forEach(run -> tx.orders().endWaiting(run, Outcome.LOST, Reason.INSTANCE_LEFT));
    }

    private Change change(String kind, String text) {
        Settings settings = instance.settings();
        return Change.of(kind, settings.instance(), settings.host(), text);
    }
}
