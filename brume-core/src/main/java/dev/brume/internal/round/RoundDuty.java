package dev.brume.internal.round;

import dev.brume.StoreException;
import dev.brume.internal.duty.Duty;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.duty.Turns;
import dev.brume.internal.plan.OneOffDuty;
import dev.brume.internal.plan.PlanDuty;
import dev.brume.internal.run.BlockedLanes;
import dev.brume.internal.run.ClaimDuty;
import dev.brume.internal.run.LateDuty;
import dev.brume.internal.run.Leasing;
import dev.brume.internal.run.LockedJobs;
import dev.brume.internal.run.Openings;
import dev.brume.internal.run.ReconcileDuty;
import dev.brume.internal.run.Settling;
import dev.brume.internal.run.StopDuty;
import dev.brume.internal.session.TakeOverDuty;
import dev.brume.spi.Outlook;
import dev.brume.spi.Store;
import java.time.Duration;
import java.time.Instant;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;

/**
 * Finds work: looks at what is due and plans, claims, settles, takes over and reconciles as needed.
 *
 * <p>An instance with nothing due makes one look a second. When the next occurrence is known, it sleeps until shortly
 * before, plans without a look, and commits exactly then.
 *
 * <p>Between the looks from the beginning, one each poll, a low-water mark spares the database the
 * graveyard of index entries that an old snapshot elsewhere keeps from being cleaned up. The mark lags by {@link #SLACK},
 * longer than the engine's own transactions last, so that what they write is seen at once; anything
 * written further behind it waits for the next full look.
 */
public final class RoundDuty implements Duty {
    private static final Duration AFTER_TROUBLE = Duration.ofMillis(500);
    private static final Duration SLACK = Duration.ofSeconds(1);
    private static final Duration FULL_LOOK = Duration.ofSeconds(2);
    private static final Duration CONTENDED = Duration.ofMillis(10);
    private static final Duration WITHOUT_SESSION = Duration.ofMillis(20);

    private final Instance instance;
    private final PlanDuty plan;
    private final OneOffDuty oneOffs;
    private final ClaimDuty claim;
    private final LockedJobs locked;
    private final Settling settling;
    private final Openings openings;
    private final BlockedLanes blocked;
    private final StopDuty stop;
    private final LateDuty late;
    private final TakeOverDuty takeOver;
    private final ReconcileDuty reconcile;
    private Optional<Instant> expected = Optional.empty();
    private Optional<Instant> lowWater = Optional.empty();
    private volatile boolean called;

    /** Whether a lane was full, so that runs may wait in it which come before those that fall due. */
    private boolean mayWait;

    private long nextWide;
    private long nextReconcile;

    /** Creates the duty. */
    public RoundDuty(Instance instance) {
        this.instance = instance;
        plan = new PlanDuty(instance);
        oneOffs = new OneOffDuty(instance);
        claim = new ClaimDuty(instance);
        locked = new LockedJobs(instance);
        settling = new Settling(instance);
        openings = new Openings(instance);
        blocked = new BlockedLanes(instance);
        stop = new StopDuty(instance);
        late = new LateDuty(instance);
        takeOver = new TakeOverDuty(instance);
        reconcile = new ReconcileDuty(instance);
        long now = instance.time().nanos();
        nextWide = now;
        nextReconcile = now + instance.settings().lease().toNanos();
    }

    /** Makes the next look one from the beginning: someone called. Safe for use by any thread. */
    public void called() {
        called = true;
    }

    @Override
    public Duration step() {
        if (instance.draining() || instance.liveSession().isEmpty()) {
            instance.turned(Turns.Name.ROUND);
            return WITHOUT_SESSION;
        }
        try {
            Duration rest = round();
            instance.turned(Turns.Name.ROUND);
            instance.reached();
            return rest;
        } catch (StoreException e) {
            instance.turns().failed(Turns.Name.ROUND, e);
            expected = Optional.empty();
            if (e.trouble() == StoreException.Trouble.COMMIT_UNCLEAR) {
                nextReconcile = instance.time().nanos();
                nextWide = nextReconcile;
            }
            instance.tellProblem("looking for work failed, will try again", e);
            return AFTER_TROUBLE;
        }
    }

    private Duration round() {
        Optional<Instant> soon = expected.filter(due -> begin(due).compareTo(instance.now()) <= 0);
        if (soon.isPresent() && !mayWait) {
            expected = Optional.empty();
            int planned = soon.get().isAfter(instance.now()) ? plan.onTheDot(soon.get()) : plan.step(soon);
            if (planned == instance.settings().batch()) {
                return Duration.ZERO;
            }
        }
        boolean wide = called || isTime(nextWide);
        called = false;
        Outlook outlook = look(wide);
        int done = 0;
        if (wide) {
            instance.awaitedElsewhere(outlook.endsAwaited());
            nextWide = instance.time().nanos()
                    + min(instance.settings().poll(), FULL_LOOK).toNanos();
            done += care(outlook);
            blocked.check();
        }
        done += settling.lookAgain();
        if (isPast(outlook.nextOpening(), outlook.now())) {
            done += openings.step(outlook.now());
        }
        if (isPast(outlook.nextReady(), outlook.now())) {
            done += claim.step(outlook.nextReady());
        }
        Instant now = instance.trusted(outlook.now());
        if (isPast(outlook.nextOneOff(), now)) {
            done += oneOffs.step(outlook.nextOneOff());
        }
        int own = isPast(outlook.nextDue(), now) ? plan.step(outlook.nextDue()) : 0;
        boolean helps = own == 0 && isPast(helpAt(outlook), now);
        done += own + (helps ? plan.help(outlook.nextOfAny().orElseThrow()) : 0);
        if (done == 0 && wide) {
            locked.check(outlook);
        }
        mayWait =
                Leasing.openLanes(instance).size() < instance.settings().lanes().size();
        return done > 0 ? Duration.ZERO : restUntil(outlook);
    }

    /** When to begin planning what falls due at an instant. */
    private Instant begin(Instant due) {
        return due.minus(plan.ahead(due));
    }

    private Outlook look(boolean wide) {
        long before = instance.time().nanos();
        Outlook outlook = instance.look(new Store.Look(
                Leasing.openLanes(instance),
                instance.ability(),
                instance.share(),
                wide ? Optional.empty() : lowWater,
                wide));
        instance.readClock(outlook.now(), before);
        lowWater = Stream.of(
                        Optional.of(outlook.now()),
                        outlook.nextOfAny(),
                        outlook.nextReady(),
                        outlook.nextOneOff(),
                        outlook.nextOpening())
                .flatMap(Optional::stream)
                .min(Instant::compareTo)
                .map(earliest -> earliest.minus(SLACK));
        return outlook;
    }

    /** Does what is not about time; returns how many ends were settled and runs taken over. */
    private int care(Outlook outlook) {
        if (outlook.beyond()) {
            instance.tellUnreadable("a job that is due");
        }
        // First of all, so that nothing that may be wrong with the rest stands in front of it.
        int done = outlook.lapsed() ? takeOver.step() : 0;
        if (outlook.unsettled()) {
            done += settling.settle(Set.of());
        }
        if (outlook.tooLate()) {
            done += late.step();
        }
        if (outlook.stops()) {
            done += stop.step();
        }
        if (isTime(nextReconcile)) {
            nextReconcile =
                    instance.time().nanos() + instance.settings().lease().toNanos();
            reconcile.step();
        }
        return done;
    }

    /** When this instance plans the jobs of others, if none of them has done so. */
    private Optional<Instant> helpAt(Outlook outlook) {
        return instance.share().isWhole()
                ? Optional.empty()
                : outlook.nextOfAny().map(due -> due.plus(PlanDuty.HELP));
    }

    private boolean isTime(long nanos) {
        return instance.time().nanos() - nanos >= 0;
    }

    private static Duration min(Duration a, Duration b) {
        return a.compareTo(b) < 0 ? a : b;
    }

    private static boolean isPast(Optional<Instant> instant, Instant now) {
        return instant.isPresent() && !instant.get().isAfter(now);
    }

    /**
     * How long to rest. If overdue work is left, another instance has locked it, so look again soon; if no worker here is free, the first
     * one to come free wakes the round.
     */
    private Duration restUntil(Outlook outlook) {
        Instant now = instance.trusted(outlook.now());
        expected = outlook.nextDue().filter(due -> due.isAfter(now));
        boolean contended = isPast(outlook.nextOneOff(), now) && !oneOffs.hasSetAside()
                || !Leasing.openLanes(instance).isEmpty()
                        && (isPast(outlook.nextDue(), now)
                                || isPast(helpAt(outlook), now)
                                || isPast(outlook.nextReady(), outlook.now()));
        Optional<Duration> contention = contended ? Optional.of(CONTENDED) : Optional.empty();
        Optional<Duration> ready =
                outlook.nextReady().filter(next -> next.isAfter(outlook.now())).map(instance::until);
        Optional<Duration> oneOff =
                outlook.nextOneOff().filter(next -> next.isAfter(now)).map(instance::until);
        Optional<Duration> opening = outlook.nextOpening()
                .map(instance::until)
                .map(left -> left.compareTo(CONTENDED) < 0 ? CONTENDED : left);
        Optional<Duration> help = helpAt(outlook)
                .filter(at -> at.isAfter(now) && !Leasing.openLanes(instance).isEmpty())
                .map(instance::until);
        return Stream.of(
                        contention,
                        expected.map(this::begin).map(instance::until),
                        ready,
                        oneOff,
                        help,
                        opening,
                        settling.untilLook())
                .flatMap(Optional::stream)
                .reduce(instance.settings().poll(), RoundDuty::min);
    }
}
