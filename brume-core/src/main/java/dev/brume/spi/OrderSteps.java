package dev.brume.spi;

import dev.brume.Allowance;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.StopReason;
import dev.brume.history.Pause;
import dev.brume.history.PauseMark;
import dev.brume.history.RunRow;
import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/**
 * The steps that orders by hand take, within a transaction.
 *
 * @since 0.1.0
 */
public interface OrderSteps {

    /** Reads a live run, locking nothing. */
    Optional<RunRow> find(long run);

    /** Reads the live runs of a job that is locked, by id. */
    List<RunRow> ofJob(long job);

    /**
     * Ends a run that nobody holds: live row out, ledger line in, and a settle row.
     *
     * @return false if it is leased, or not live
     */
    boolean endWaiting(long run, Outcome outcome, Reason reason);

    /** Reads, without locking, which runs that nobody holds should have begun by now. */
    List<RunRow> tooLate(int limit);

    /** Asks whoever holds runs to stop them; what was asked before stays. */
    void askToStop(Collection<Long> runs, StopReason why);

    /** Reads which runs are to be stopped. */
    Map<Long, StopReason> askedToStop();

    /** Forgets that runs were to be stopped. */
    void forgetStops(Collection<Long> runs);

    /** Reads which occurrences of a job have a run, live or ended; those that were skipped have none. */
    Set<Instant> havingRuns(long job, Instant from, Instant until);

    /** Reads the pauses, those that ended and those to come included, as long as they are on record. */
    List<Pause> pauses();

    /** Writes a pause down. */
    void addPause(Pause pause);

    /**
     * Ends the pauses of a scope that are in force.
     *
     * @return how many
     */
    int endPauses(Pause.Scope scope, Instant at);

    /**
     * Takes back the pauses of a scope that have not begun.
     *
     * @param days only those that were made of a calendar's days; of whatever, if empty
     * @return how many
     */
    int takeBackPauses(Pause.Scope scope, Optional<Pause.Days> days, Instant at);

    /** Writes how locked jobs stand with the pauses that cover them; while they are paused, nothing of theirs is due but the end of it. */
    void mark(Map<Long, PauseMark> jobs);

    /** Reads what a namespace is allowed; empty if it may do anything. */
    Optional<Allowance> allowance(String namespace);

    /** Sets what a namespace is allowed, or lets it do anything again. */
    void allow(String namespace, Optional<Allowance> allowance, String who);

    /** Counts the jobs of a namespace; dropped ones are none. */
    long jobsIn(String namespace);
}
