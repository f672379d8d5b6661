package dev.brume;

import dev.brume.history.CauseRow;
import dev.brume.history.Erased;
import dev.brume.history.History;
import dev.brume.history.JobRow;
import dev.brume.history.NoticeRow;
import dev.brume.history.Pause;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.history.SealHead;
import dev.brume.history.SessionRow;
import dev.brume.internal.define.Registrar;
import dev.brume.internal.define.Renaming;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.order.AccessOrders;
import dev.brume.internal.order.ClusterOrders;
import dev.brume.internal.order.Edit;
import dev.brume.internal.order.EraseOrders;
import dev.brume.internal.order.HandOrders;
import dev.brume.internal.order.Joined;
import dev.brume.internal.order.NoticeOrders;
import dev.brume.internal.order.OnceOnly;
import dev.brume.internal.order.OnceOnly.Form;
import dev.brume.internal.order.OneOffOrders;
import dev.brume.internal.order.Orderer;
import dev.brume.internal.order.PauseOrders;
import dev.brume.internal.result.RunWatch;
import dev.brume.internal.retention.RetentionDuty;
import dev.brume.internal.retention.RollUpDuty;
import dev.brume.internal.retention.SealDuty;
import dev.brume.notice.Notice;
import dev.brume.schedule.Occurrence;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.function.Supplier;
import java.util.function.ToLongFunction;

/**
 * The orders that a person gives. Each is on record in the change log with who gave it, from where and why, in the same
 * transaction. Safe for use by many threads.
 *
 * @see Brume#orders(String, String)
 * @since 0.1.0
 */
public final class Orders {
    private static final int MOST_AT_ONCE = 10_000;

    private final Instance instance;
    private final Orderer orderer;
    private final OnceOnly once;
    private final AccessOrders access;
    private final HandOrders hand;
    private final PauseOrders pauses;
    private final Renaming renaming;
    private final RetentionDuty retention;
    private final Registrar registrar;
    private final ClusterOrders cluster;
    private final OneOffOrders oneOffs;
    private final Supplier<Joined> joined;
    private final SealDuty seals;
    private final RollUpDuty rollUp;
    private final EraseOrders erasing;
    private final NoticeOrders notices;
    private final Edit edit;
    private final RunWatch watch;
    private final History history;

    Orders(Instance instance, Orderer orderer, OnceOnly once, Supplier<Joined> joined) {
        this.instance = instance;
        this.orderer = orderer;
        this.once = once;
        this.joined = joined;
        edit = Edit.by(orderer);
        watch = instance.watch();
        history = instance.store().history();
        registrar = new Registrar(instance);
        cluster = new ClusterOrders(instance);
        oneOffs = new OneOffOrders(instance, orderer, once);
        access = new AccessOrders(instance);
        seals = new SealDuty(instance, orderer.who());
        rollUp = new RollUpDuty(instance);
        hand = new HandOrders(instance, orderer, once);
        erasing = new EraseOrders(instance, orderer);
        notices = new NoticeOrders(instance, orderer);
        pauses = new PauseOrders(instance, orderer);
        renaming = new Renaming(instance, edit);
        retention = new RetentionDuty(instance, orderer);
    }

    /**
     * {@return the same orders, given from elsewhere than the host of this instance}
     *
     * @param host the address of whoever gives them, or its name, at most 200 characters
     * @throws IllegalArgumentException if it is no line of a text that can be stored, or longer
     */
    public Orders from(String host) {
        return new Orders(instance, new Orderer(orderer.who(), host, orderer.because()), once, joined);
    }

    /**
     * {@return orders that are carried out once for a key: whoever gives the same order under it again is told what came of the first}
     *
     * <p>So a program that does not know whether it was heard gives its order again. It holds for {@link #runNow}, {@link #rerun},
     * {@link #cancel}, {@link #backfill}, {@link #skipNext}, {@link #pause}, {@link #resume}
     * and the adding of {@link #oneOffs one-offs}; others are carried out as often as they are given. A key stays on record for a
     * day, and as long as the run that was ordered under it. Keys belong to whoever gives the orders, to a namespace and to a kind of order.
     *
     * <p>What an order is given under a key that stands for another one throws an {@link OrderKeyTakenException}.
     *
     * @param key 1 to 200 characters in one line
     * @throws IllegalArgumentException if it is none
     */
    public Orders once(String key) {
        return new Orders(instance, orderer, new OnceOnly(orderer.who(), Optional.of(key)), joined);
    }

    /**
     * Puts definitions in force, as {@link Brume#define(DefinitionSet)} does, if they are to take the place of what was seen.
     *
     * @param seen the versions that were in force when it was decided
     * @throws EditConflictException if other versions are in force now; nothing is changed then
     */
    public List<Defined> define(DefinitionSet set, DefinitionsSeen seen) {
        return registrar.define(set, edit.having(seen));
    }

    /**
     * Puts an earlier version of a job in force again: a new version that equals it. What defines the job so far goes on to do so, and defines it
     * anew when it is applied.
     *
     * @param version the one that it is to equal
     * @return what became of it; nothing is written if it is as it was then
     * @throws NotThereException if there is no such job, or no such version of it
     * @throws EditConflictException if it is changed by somebody else in that moment; nothing is changed then
     * @throws NotAllowedException if an allowance of its namespace refuses it by now
     */
    public Defined revert(JobName name, int version) {
        JobRow row = history.job(name)
                .orElseThrow(() -> NotThereException.ofJob(name, ""))
                .row();
        Job earlier = history.version(name, version).orElseThrow(() -> NotThereException.ofVersion(name, version));
        DefinitionSet set = DefinitionSet.of(row.source(), List.of(earlier)).within(name.namespace());
        OptionalLong revision = history.revision(set.sourceInFull());
        DefinitionSet whole = revision.isPresent() ? set.withRevision(revision.getAsLong()) : set;
        return define(whole, new DefinitionsSeen(Map.of(name, row.version()), Map.of(), Map.of()))
                .get(0);
    }

    /**
     * Lets the next definitions of a source be put in force, whatever their revision, and those of its jobs whatever build they are of: to go back
     * on purpose. What is in force stays until then.
     *
     * @param source where definitions come from, such as a file's name, or {@code api} for those in code; those of a namespace's own file as
     *     {@code namespace:file}
     * @return how many jobs it has
     * @throws NotThereException if nothing in force comes from there
     */
    public int accept(String source) {
        return cluster.accept(source, edit);
    }

    /**
     * Drops a job: it owes nothing from now on, its name becomes free, its history stays.
     *
     * @return whether there was such a job
     * @see Brume#drop
     */
    public boolean drop(JobName job) {
        return registrar.drop(job, edit);
    }

    /**
     * Drops a job, if it is what was seen.
     *
     * @throws EditConflictException if another version is in force now
     * @see #drop(JobName)
     */
    public boolean drop(JobName job, DefinitionsSeen seen) {
        return registrar.drop(job, edit.having(seen));
    }

    /**
     * Drops all jobs of a namespace, one after the other; who is cut off gives the order again. Jobs that are defined meanwhile may stay.
     *
     * @return how many
     * @throws IllegalArgumentException if the namespace is no name
     * @see #drop(JobName)
     */
    public int dropAll(String namespace) {
        return registrar.dropAll(namespace, edit);
    }

    /**
     * Sets what the jobs of a namespace may be and use from now on. What is defined already stays.
     *
     * @param namespace whether it has jobs yet or not
     * @return what they were allowed before; empty if they were allowed anything
     * @throws IllegalArgumentException if the namespace is no name
     */
    public Optional<Allowance> allow(String namespace, Allowance allowance) {
        return cluster.allow(namespace, Optional.of(allowance), edit);
    }

    /**
     * Lets the jobs of a namespace be and use anything again.
     *
     * @return what they were allowed before; empty if that was anything
     * @throws IllegalArgumentException if the namespace is no name
     * @see #allow
     */
    public Optional<Allowance> allowAnything(String namespace) {
        return cluster.allow(namespace, Optional.empty(), edit);
    }

    /**
     * Asks the instances of a name to drain.
     *
     * @return their sessions; empty if no instance of that name takes work
     * @see Brume#drain
     */
    public List<SessionRow> drain(String instance) {
        return cluster.drain(instance, edit);
    }

    /**
     * Makes a token that lets whoever shows its secret in over HTTP.
     *
     * @param name what it is called, and who its holder is in the change log; free, or that of one that lets nobody in any more
     * @param grant what it lets do, and where
     * @param length for how long, at least 1m; empty for ever
     * @return the token with its secret, which is told nowhere else
     * @throws IllegalArgumentException if it is no name, the name is taken, or the length is outside its range
     */
    public NewToken addToken(String name, Grant grant, Optional<Duration> length) {
        return access.add(name, grant, length, orderer);
    }

    /**
     * Revokes a token: on every instance it lets nobody in any more within a second, and whoever signed in by it is out.
     *
     * @return whether it let somebody in until now
     * @throws NotThereException if there is no such token
     */
    public boolean revokeToken(String name) {
        return access.revoke(name, orderer);
    }

    /**
     * Says that the database was restored from a copy.
     *
     * @return the new epoch
     * @see Brume#databaseWasRestored
     */
    public long databaseWasRestored() {
        return cluster.restored(edit);
    }

    /**
     * Starts a job now, whatever its schedules say, paused or not. It waits where the job, or a gate of it, has no place.
     *
     * @param job defined
     * @return the run, to ask for its end
     * @throws NotThereException if there is no such job
     */
    public RunHandle runNow(JobName job) {
        return handle(hand.runNow(job, Optional.empty()));
    }

    /**
     * Starts a job now with a payload of its own.
     *
     * @param job defined
     * @param payload at most {@value Job#LONGEST_PAYLOAD} characters
     * @return the run, to ask for its end
     * @throws IllegalArgumentException if it is longer
     * @see #runNow(JobName)
     */
    public RunHandle runNow(JobName job, String payload) {
        return handle(hand.runNow(job, Optional.of(payload)));
    }

    /** {@return the orders of single runs} */
    public OneOffs oneOffs() {
        return new OneOffs(oneOffs, watch, joined);
    }

    /**
     * Runs once more what an ended run was owed to: the same planned instant and payload, under the definition in force.
     *
     * @param run the id of one that has ended
     * @return the new run
     * @throws NotThereException if there is no such run
     * @throws IllegalArgumentException if it has not ended, or its job was dropped
     */
    public RunHandle rerun(long run) {
        return handle(hand.rerun(run));
    }

    /**
     * Runs once more what many ended runs were owed to, oldest first, each as {@link #rerun} does. Those that were rerun already are left as they
     * are, so that an order that was cut off can be given again; one that cannot be rerun holds up no other.
     *
     * @param filter which runs, at most 10000; live ones are not meant. {@link dev.brume.history.History#runs} tells which they are
     * @throws IllegalArgumentException if the filter is for more
     */
    public BulkOrder rerunAll(RunFilter filter) {
        return eachOf(filter, view -> {
            if (view.outcome().isEmpty()) {
                throw new IllegalArgumentException("it has not ended yet");
            }
            return hand.rerunOnce(view.id());
        });
    }

    /** {@return whether what a run was owed to was rerun before, or is being} */
    public boolean wasRerun(long run) {
        return hand.wasRerun(run);
    }

    /**
     * Cancels many runs, oldest first, each as {@link #cancel} does.
     *
     * @param filter which runs, at most 10000; ended ones are left as they are
     * @throws IllegalArgumentException if the filter is for more
     */
    public BulkOrder cancelAll(RunFilter filter) {
        return eachOf(filter, view -> switch (hand.cancel(view.id())) {
            case ENDED, ASKED -> view.id();
            case ALREADY_ENDED -> throw new IllegalArgumentException("it had ended before");
            case NO_SUCH_RUN -> throw NotThereException.ofRun(view.id(), "");
        });
    }

    private BulkOrder eachOf(RunFilter filter, ToLongFunction<RunView> order) {
        if (filter.limit() > MOST_AT_ONCE) {
            throw new IllegalArgumentException(
                    "an order about " + filter.limit() + " runs is above " + MOST_AT_ONCE + "; give several");
        }
        List<RunView> runs = new ArrayList<>(history.runs(filter));
        Collections.reverse(runs);
        List<RunHandle> done = new ArrayList<>();
        Map<Long, String> left = new LinkedHashMap<>();
        for (RunView view : runs) {
            try {
                done.add(handle(order.applyAsLong(view)));
            } catch (StoreException e) {
                throw e;
            } catch (IllegalArgumentException | BrumeException e) {
                left.put(view.id(), String.valueOf(e.getMessage()));
            }
        }
        return new BulkOrder(done, left);
    }

    /**
     * {@return what {@link #backfill} would run: what the schedules owed in a period, by the definition in force, and no run
     * was ever made of}
     *
     * @param job defined
     * @param from inclusive
     * @param until exclusive, not after now
     * @throws NotThereException if there is no such job
     * @throws IllegalArgumentException if the period is empty, to come, or holds more than 1000
     */
    public List<Occurrence> missing(JobName job, Instant from, Instant until) {
        return hand.missing(job, from, until);
    }

    /**
     * Makes up for what is {@link #missing}; the runs pass the job's gates like any others.
     *
     * @param from inclusive
     * @param until exclusive, not after now
     * @return the runs, to ask for their ends
     * @throws NotThereException if there is no such job
     * @throws IllegalArgumentException if the period is empty, to come, or holds more than 1000
     */
    public List<RunHandle> backfill(JobName job, Instant from, Instant until) {
        return hand.backfill(job, from, until).stream().map(this::handle).toList();
    }

    /** {@return a run that was ordered before, here or elsewhere, to ask for its end} */
    public RunHandle run(long id) {
        return handle(id);
    }

    private static Form<PauseChange> changing(String operation, Object asked) {
        return Form.of(
                operation,
                "",
                change -> change.ordered() + " " + change.jobs(),
                text -> new PauseChange(
                        text.startsWith("true"), Integer.parseInt(text.substring(text.indexOf(' ') + 1))),
                asked);
    }

    private RunHandle handle(long run) {
        return new RunHandle(run, watch);
    }

    /**
     * Leaves the job's next occurrence out.
     *
     * @return which; empty if none is to come
     * @throws NotThereException if there is no such job
     */
    public Optional<Occurrence> skipNext(JobName job) {
        return hand.skipNext(job);
    }

    /**
     * Cancels a run. One that waits ends at once. One that runs is told, {@link Run#stopAsked()}, and interrupted ten seconds
     * later; a program and all its children get TERM at once, and KILL five seconds later.
     *
     * @param run its id
     * @return what became of the order
     */
    public Cancelled cancel(long run) {
        return hand.cancel(run);
    }

    /**
     * Erases what runs were given, returned and said: payload, result, errors and output, of all or of none. Their lines stay in the ledger, with
     * the digests of what they held, so that a seal over them holds. Files and copies of the database may hold the content for a while longer.
     *
     * @param runs the ids of runs that have ended
     * @return what was erased of each; nothing where there was none, or none any more
     * @throws NotThereException if there is no such run
     * @throws IllegalArgumentException if one has not ended, or if nobody says why: the reason given with the orders is empty
     */
    public List<Erased> erase(long... runs) {
        return erasing.erase(runs);
    }

    /**
     * Erases the content of all runs that were made for a key of one-offs, and of what was rerun of them.
     *
     * @param job its job
     * @param key that it was ordered by; it stays on record
     * @return what was erased of each
     * @throws NotThereException if there is no such one-off
     * @throws IllegalArgumentException if it still waits, one of the runs has not ended, or nobody says why
     * @see #erase(long...)
     */
    public List<Erased> erase(JobName job, String key) {
        return erasing.erase(job, key);
    }

    /**
     * Seals all that is on record and not sealed yet. From the first time on, instances go on sealing by themselves, every ten
     * minutes.
     *
     * @return where sealing stands then
     */
    public SealHead seal() {
        return seals.step();
    }

    /**
     * Sums up by job and hour what came into the ledger since that was last done, rather than when an instance next does, every ten minutes.
     *
     * @return how many lines
     */
    public long sumUp() {
        return rollUp.step();
    }

    /**
     * Throws away all sums by job and hour, and sums up the ledger from the beginning; the change log says so.
     *
     * @return how many lines
     */
    public long sumUpAnew() {
        return rollUp.anew(orderer);
    }

    /**
     * Bounds what the ledger as a whole keeps; jobs may state tighter bounds of their own.
     *
     * @return the bounds before
     */
    public Keep keep(Keep bounds) {
        return retention.bound(bounds);
    }

    /**
     * Sets the age below which nothing goes from the ledger, whatever bounds a job states; definitions that state less are refused.
     *
     * @param age at least 1 h
     * @return the one before
     * @throws IllegalArgumentException if it is shorter, or above what the ledger as a whole keeps
     */
    public Optional<Duration> keepAtLeast(Duration age) {
        return retention.floor(Optional.of(age));
    }

    /**
     * Lets bounds that jobs state go down to the least again.
     *
     * @return the age below which nothing went before
     * @see #keepAtLeast
     */
    public Optional<Duration> keepNoLeast() {
        return retention.floor(Optional.empty());
    }

    /**
     * Removes what is beyond the ledger's bounds now, rather than when an instance next does.
     *
     * @return how many lines
     */
    public long removeBeyondBounds() {
        return retention.step();
    }

    /**
     * Gives a job another name. Its history, versions, waiting runs and one-offs stay with it, jobs that it follows name it anew, and
     * definitions of its source that still have the former name are {@linkplain Defined.Kind#OUTDATED outdated}.
     *
     * @param to of the same namespace
     * @return the jobs that it follows
     * @throws NotThereException if it is not there
     * @throws IllegalArgumentException if the other name is taken, or of another namespace
     */
    public List<JobName> rename(JobName from, JobName to) {
        return renaming.rename(from, to);
    }

    /**
     * Pauses jobs, those defined later included: they owe nothing until they are resumed, and runs that there are go on.
     *
     * @return whether the pause is new, and how many jobs it paused that were not
     * @throws NotThereException if the one job meant is not there
     */
    public PauseChange pause(Pause.Scope scope) {
        return pause(PauseOrder.of(scope));
    }

    /**
     * Pauses jobs, those defined later included, from an instant on, until one, or on the days of a calendar. It holds to the
     * microsecond: what is planned for the begin is not owed, what is planned for the end runs. Runs that there are go on, and
     * {@link #run} still works.
     *
     * @return whether the pause is new, and how many jobs it paused that were not; if it is yet to begin, how many it covers
     * @throws NotThereException if the one job meant is not there
     * @throws IllegalArgumentException if the begin or the end lies behind, or there is no such calendar
     */
    public PauseChange pause(PauseOrder order) {
        return once.around(instance, changing("pause", order), () -> pauses.pause(order));
    }

    /**
     * Resumes jobs, except those that another pause covers. What they did not owe meanwhile is decided as their policies for
     * missed occurrences say.
     *
     * @return whether there was such a pause, and how many jobs go on
     * @throws NotThereException if the one job meant is not there
     */
    public PauseChange resume(Pause.Scope scope) {
        return once.around(instance, changing("resume", scope), () -> pauses.resume(scope));
    }

    /**
     * Takes back the pauses of a scope that are planned and have not begun.
     *
     * @return how many
     * @throws NotThereException if the one job meant is not there
     */
    public int takeBackPauses(Pause.Scope scope) {
        return pauses.takeBack(scope);
    }

    // Notices.

    /**
     * Silences a cause of notices: nothing more is told of it until it is over, or looks different.
     *
     * @param cause its key, such as {@code failing harbour/tide-print}
     * @param length for how long at most, from a minute; empty for as long as it goes on so
     * @return the cause as it stands then
     * @throws NotThereException if no such cause goes on
     */
    public CauseRow acknowledge(String cause, Optional<Duration> length) {
        return notices.acknowledge(cause, length);
    }

    /**
     * Takes back that a cause was acknowledged.
     *
     * @return whether it was
     * @throws NotThereException if no such cause goes on
     */
    public boolean speak(String cause) {
        return notices.speak(cause);
    }

    /**
     * Has a notice that was not delivered sent again, under its id, for as long as its channel says.
     *
     * @return the notice as it stands then
     * @throws NotThereException if it is not on record
     * @throws IllegalArgumentException if it was not given up
     */
    public NoticeRow sendAgain(String notice) {
        return notices.sendAgain(notice);
    }

    /**
     * Sends a sample to a channel.
     *
     * @param channel in full
     * @return the notice, to be looked for in the history
     * @throws NotThereException if there is no such channel
     */
    public Notice sample(String channel) {
        return notices.sample(channel);
    }
}
