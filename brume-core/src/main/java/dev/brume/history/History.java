package dev.brume.history;

import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.StoreException;
import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.function.Consumer;

/**
 * Reads what people ask for. Safe for use by many threads; methods may throw {@link StoreException}.
 *
 * @since 0.1.0
 */
public interface History {

    /** {@return the database's clock} */
    Instant now();

    /** {@return all live jobs by name with the namespace} */
    List<JobView> jobs();

    /**
     * {@return live jobs that a filter lets through, in its order; reads those, not all}
     *
     * @throws IllegalArgumentException as {@link JobFilter#behind} does
     */
    List<JobView> jobs(JobFilter filter);

    /** {@return the live jobs that state a deadline, or how long they may go without a success, by name} */
    List<JobView> watchedJobs();

    /** {@return how many jobs live} */
    long jobCount();

    /** {@return the job of a name, if it lives} */
    Optional<JobView> job(JobName key);

    /** {@return the newest versions of all calendars by name} */
    List<CalendarView> calendars();

    /** {@return runs, live ones and ended ones, newest planned first} */
    List<RunView> runs(RunFilter filter);

    /** {@return one run with its output} */
    Optional<RunView> run(long id);

    /** {@return where runs stand: which have not ended, and how the others did} */
    Standing standing(Collection<Long> runs);

    /** {@return the one-offs that wait and that a filter lets through, earliest first} */
    List<OneOffView> oneOffs(OneOffFilter filter);

    /** {@return the one-off that waits and becomes a run of that number} */
    Optional<OneOffView> oneOff(long run);

    /** {@return the one-off of a key, whether it waits or a run was made of it} */
    Optional<OneOffView> oneOff(JobName job, String key);

    /** {@return spans of passed-over occurrences that overlap a filter's period, newest first} */
    List<SpanView> spans(RunFilter filter);

    /**
     * Reads what is on record of jobs in a period, one after the other, dropped ones too, from one snapshot.
     *
     * @param receiver is given each; what it throws ends the reading
     */
    void accounts(Timeframe frame, Consumer<JobAccount> receiver);

    /** {@return the ledger of a period's whole hours as it is kept in sums, to be held against its lines} */
    RollUp rollUp(Timeframe frame);

    /** Sums up how runs ended that were planned in a period, by job id; much faster than {@link #accounts}. */
    Map<Long, Ends> ends(Timeframe frame);

    /** {@return lines of the change log, newest first} */
    List<ChangeView> changes(ChangeFilter filter);

    /** {@return a version of the live job of a name; empty if there is none} */
    Optional<Job> version(JobName job, int number);

    /** {@return the highest revision of a source of definitions that was ever applied; empty if none was stated} */
    OptionalLong revision(String source);

    /**
     * {@return ledger lines by run id, without their output}
     *
     * @param beyond those with a higher id
     * @param open and those in it
     * @param limit how many at most
     */
    List<RunView> lines(long beyond, IdRanges open, int limit);

    /**
     * {@return lines of the change log by number, lowest first}
     *
     * @see #lines
     */
    List<ChangeView> changeLines(long beyond, IdRanges open, int limit);

    /**
     * {@return what seals cover, by number, lowest first}
     *
     * @see #lines
     */
    List<SealedRow> sealedRows(SealedKind kind, long beyond, IdRanges open, int limit);

    /** {@return the erasure of a run's content, if it was erased} */
    Optional<Erasure> erasure(long run);

    /** {@return the erasures of runs' content, by run, beginning after one} */
    List<Erasure> erasures(long after, int limit);

    /** {@return what was in force at an instant} */
    Past past(Instant at);

    /** {@return the changes that were committed, for those who follow} */
    Feed feed();

    /** {@return where sealing stands} */
    SealHead sealHead();

    /** {@return seals by number, beginning after one} */
    List<Seal> seals(long after, int limit);

    /** {@return the pauses in force, oldest first} */
    List<Pause> pauses();

    /** {@return what jobs are called now that had these names formerly; those that a job has now are left out} */
    Map<JobName, JobName> renamed(Collection<JobName> names);

    /** {@return the pauses that are planned and have not begun, the next first} */
    List<Pause> plannedPauses();

    /** {@return the namespaces that have jobs or an allowance, by name} */
    List<NamespaceView> namespaces();

    /** {@return what the ledger keeps} */
    Retention retention();

    /** {@return the gates that jobs share, by kind and name} */
    List<Gate> gates();

    /** {@return what the whole cluster owes and has not ended; reads live rows alone} */
    Backlog backlog();

    /** {@return the leases by name, those that are held and those that are free again but not forgotten yet, by name} */
    List<NamedLeaseRow> leases();

    /** {@return what each source says about notices, by source} */
    List<TellingRow> tellings();

    /** {@return the causes of notices that go on, those seen last first; those that are over follow if they are asked for} */
    List<CauseRow> causes(boolean over, int limit);

    /** {@return notices that a filter lets through, newest first} */
    List<NoticeRow> notices(NoticeFilter filter);

    /** {@return how telling fares} */
    NoticeFigures noticeFigures();

    /** {@return all tokens by name, those that let nobody in any more too} */
    List<TokenRow> tokens();

    /**
     * {@return the token of a secret that lets somebody in now}
     *
     * @param digest of the secret: SHA-256, in hexadecimal
     */
    Optional<TokenRow> token(String digest);

    /**
     * {@return who has signed in, if it has not ended, and the token behind it lets somebody in now}
     *
     * @param digest of the secret that they were given: SHA-256, in hexadecimal
     */
    Optional<SignInRow> signIn(String digest);

    /**
     * {@return how the database itself fares}
     *
     * @param dueBefore jobs due before it whose rows are locked by others are named
     */
    Health health(Instant dueBefore);

    /** {@return sessions, newest first; those that ended only if asked for} */
    List<SessionView> sessions(boolean ended);
}
