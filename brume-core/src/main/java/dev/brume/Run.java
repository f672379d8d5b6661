package dev.brume;

import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.util.List;
import java.util.Optional;

/**
 * The attempt that a handler carries out: its facts, and what it may ask for. Safe for use by many threads.
 *
 * @since 0.1.0
 */
public interface Run {

    /** {@return the id under which the run is found in the ledger, the same for all its attempts} */
    long id();

    /** {@return the job's name} */
    JobName job();

    /** {@return the instant the schedule owed} */
    Instant planned();

    /** {@return the local time that the schedule named, in the schedule's zone} */
    LocalDateTime plannedLocal();

    /** {@return what the run is owed to} */
    Origin origin();

    /**
     * {@return how the run of the job ended that ended last before this is asked, empty if none has} Asks the database.
     */
    Optional<Previous> previous();

    /** {@return the run that this one follows, with what it returned; empty unless it is a follow-up} Asks the database. */
    Optional<Parent> parent();

    /**
     * A run that this one follows.
     *
     * @param run its id
     * @param job its job
     * @param outcome how it ended
     * @param result what it returned
     */
    record Parent(long run, JobName job, Outcome outcome, Optional<String> result) {}

    /** {@return how long this attempt may still take, zero if its time is over; empty if the job has no time limit} */
    Optional<Duration> timeLeft();

    /**
     * A run that has ended.
     *
     * @param run its id
     * @param outcome how
     * @param endedAt when
     */
    record Previous(long run, Outcome outcome, Instant endedAt) {}

    /**
     * {@return the W3C trace contexts ({@code traceparent}) of what ordered this run, of its planning and of its earlier attempts, those
     * that there are} Its work goes on in a span of its own, which is linked to them; see {@link dev.brume.spi.Traces}.
     */
    List<String> traces();

    /** {@return when this attempt began, by the database's clock as far as the instance knows it} */
    Instant startedAt();

    /** {@return the number of this attempt, from 1} */
    int attempt();

    /**
     * {@return the fence of this attempt's lease} It rises with every lease, so a resource that
     * remembers the highest it has seen can refuse a holder that was thought dead.
     */
    long fence();

    /** {@return the job's payload, usually JSON} */
    Optional<String> payload();

    /** Adds a line to the run's captured output. */
    void print(String line);

    /**
     * Says how far the work is; shown while the run goes on, within about a second. The last call counts.
     *
     * @param percent 0 to 100
     * @param message what it is at, in a few words; longer than {@value #LONGEST_MESSAGE} characters is cut off
     * @throws IllegalArgumentException if the percentage is outside its range
     */
    void progress(int percent, String message);

    /** The longest message of a progress, in characters. */
    int LONGEST_MESSAGE = 200;

    /** Sets the text kept as the run's result; the last call counts. */
    void result(String text);

    /**
     * Ends the run as succeeded, in one transaction with what the work writes into the database that Brume is in: both are
     * committed, exactly once, or neither. What the handler does afterwards is not part of the run any more. At most once
     * in an attempt.
     *
     * @throws LeaseLostException if the lease no longer holds: nothing was written, another instance has the run
     * @throws OutcomeUnknownException if the connection died at the commit and nobody can be asked whether it went through
     * @throws Exception whatever the work throws: nothing was written, and the attempt goes on
     */
    void commit(GuardedWork work) throws Exception;

    /**
     * Ends the run as succeeded, in a transaction of the application's own kind, such as its framework begins and ends; else as {@link #commit(GuardedWork)}
     * does.
     *
     * @param transaction on the database that Brume is in; another one's would commit apart
     * @param work is given the transaction's connection
     * @throws LeaseLostException if the lease no longer holds: nothing was written, another instance has the run
     * @throws OutcomeUnknownException if the commit failed and nobody can be asked whether it went through
     * @throws StoreException if the commit failed: nothing was written
     * @throws Exception whatever the work throws: nothing was written, and the attempt goes on
     */
    void commit(OwnTransaction transaction, GuardedWork work) throws Exception;

    /** {@return why the attempt should end early, empty while it need not} */
    Optional<StopReason> stopAsked();
}
