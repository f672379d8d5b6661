package dev.brume.cli.desk;

import dev.brume.Allowance;
import dev.brume.Cancelled;
import dev.brume.Defined;
import dev.brume.Grant;
import dev.brume.JobName;
import dev.brume.Keep;
import dev.brume.NewToken;
import dev.brume.OneOff;
import dev.brume.PauseChange;
import dev.brume.PauseOrder;
import dev.brume.definitions.DefinitionFile;
import dev.brume.history.CauseRow;
import dev.brume.history.History;
import dev.brume.history.NoticeRow;
import dev.brume.history.Pause;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.history.SealHead;
import dev.brume.insight.diff.DefinitionDiff;
import dev.brume.schedule.Occurrence;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;

/**
 * Where commands give orders: to a store, or to a server before one. What an order is about and is not there throws a
 * {@link dev.brume.NotThereException}; what is wrong with it an {@link IllegalArgumentException} or, at a server, {@link Refused}.
 */
public interface Desk {
    /** {@return what is on record} */
    History history();

    /** {@return who gives the orders} */
    String who();

    /** Pauses jobs. */
    PauseChange pause(PauseOrder order);

    /** Lifts a pause. */
    PauseChange resume(Pause.Scope scope);

    /** {@return how many pauses that had not begun were taken back} */
    int takeBackPauses(Pause.Scope scope);

    /** {@return what is left out} */
    Optional<Occurrence> skipNext(JobName job);

    /** {@return the run} */
    long runNow(JobName job, Optional<String> payload);

    /** {@return what a backfill would run} */
    List<Occurrence> missing(JobName job, Instant from, Instant until);

    /** {@return the runs} */
    List<Long> backfill(JobName job, Instant from, Instant until);

    /** {@return what became of the order} */
    Cancelled cancel(long run);

    /** {@return the new run} */
    long rerun(long run);

    /** What is done to many runs at once. */
    enum Bulk {
        /** They are cancelled. */
        CANCEL,
        /** What they were owed to is run once more. */
        RERUN
    }

    /** {@return those of the runs that an order can be given about} */
    List<RunView> meant(Bulk what, RunFilter filter);

    /** {@return what came of an order about many runs} */
    BulkAnswer orderAll(Bulk what, RunFilter filter);

    /** {@return what came of the order} */
    OneOffReply add(OneOff oneOff, boolean orMove);

    /** {@return what came of the order} */
    OneOffReply move(JobName job, String key, Instant at);

    /** {@return what came of the order} */
    OneOffReply drop(JobName job, String key);

    /** Drops a job. */
    void drop(JobName job);

    /** {@return how many jobs were dropped} */
    int dropAll(String namespace);

    /** {@return what became of the job, which is to equal an earlier version} */
    Defined revert(JobName job, int version);

    /** {@return the jobs that follow under the new name} */
    List<JobName> rename(JobName from, JobName to);

    /** {@return the sessions that were asked to drain} */
    Set<UUID> drain(String instance);

    /** {@return what was erased, in the vocabulary of views} */
    List<Seen> erase(List<Long> runs);

    /** {@return what was erased, in the vocabulary of views} */
    List<Seen> erase(JobName job, String key);

    /** {@return the newest seal} */
    SealHead seal();

    /** {@return what was allowed before; empty if that was anything} */
    Optional<Allowance> allow(String namespace, Optional<Allowance> allowance);

    /** {@return the bounds before} */
    Keep keep(Keep bounds);

    /** {@return the floor before} */
    Optional<Duration> keepAtLeast(Optional<Duration> floor);

    /** {@return how many lines were removed} */
    long removeBeyondBounds();

    /** {@return how many lines were summed up} */
    long sumUp(boolean anew);

    /** {@return the cause, which is told no more until it is over or looks different} */
    CauseRow acknowledge(String cause, Optional<Duration> length);

    /** {@return whether it had been acknowledged} */
    boolean speak(String cause);

    /** {@return the notice, which is sent again} */
    NoticeRow sendAgain(String notice);

    /** {@return the id of the sample that is sent to a channel} */
    String sample(String channel);

    /** {@return how many jobs of the source are in force} */
    int accept(String source);

    /** {@return the token, with its secret} */
    NewToken addToken(String name, Grant grant, Optional<Duration> length);

    /** {@return whether it was good until now} */
    boolean revokeToken(String name);

    /**
     * Puts definitions in force, if what they were compared with is still in force.
     *
     * @param dropGone whether jobs of the source that are not among them are dropped
     * @throws dev.brume.EditConflictException if something has come in between; nothing is changed then
     */
    void define(DefinitionFile file, DefinitionDiff diff, boolean dropGone);
}
