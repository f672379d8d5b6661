package dev.brume.spi;

import dev.brume.CalendarName;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.history.CalendarRow;
import dev.brume.history.Change;
import dev.brume.history.JobRow;
import dev.brume.history.LeaseKey;
import dev.brume.history.RunRow;
import dev.brume.history.Span;
import dev.brume.history.VersionKey;
import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.Set;
import java.util.UUID;

/**
 * The steps that duties are made of, within one transaction.
 *
 * <p>Whoever locks more than one kind of row does so in this order: definitions, jobs by id, gates by kind and name,
 * sessions, runs by id, ledger. Steps that say "passing over" leave out rows that others hold; all others wait
 * for them, within the limits of the connection. Confined to one thread.
 *
 * @since 0.1.0
 */
public interface Transaction {

    /** {@return the database's clock, read now and not when the transaction began, in microseconds} */
    Instant now();

    /** {@return the steps on shared gates} */
    GateSteps gates();

    /** {@return the steps on one-offs} */
    OneOffSteps oneOffs();

    // Definitions.

    /** Locks out other definers until the end. */
    void lockDefinitions();

    /** Reads the live jobs of these names, locking nothing. */
    Map<JobName, JobRow> findJobs(Collection<JobName> keys);

    /** Locks the live jobs of these names. */
    Map<JobName, JobRow> lockJobs(Collection<JobName> keys);

    /** Reads which jobs follow the runs of live jobs, as their definitions in force say; jobs that none follows are left out. */
    Map<JobName, List<JobName>> followUps(Collection<JobName> jobs);

    /** Adds jobs with version 1; returns their ids in the order given. */
    List<Long> addJobs(List<NewJob> jobs);

    /** Replaces the definitions of locked jobs by their next version. */
    void redefine(List<Redefinition> changes);

    /** Reads which live jobs are followed by a job, as their definitions in force say. */
    List<JobName> followedBy(JobName target);

    /** Gives a locked job another name, which is free; pauses of it alone go with it, and its former name is remembered. */
    void rename(long job, JobName from, JobName to);

    /** Reads the live jobs that had these names formerly. */
    Map<JobName, JobRow> formerly(Collection<JobName> names);

    /** Ends the life of a locked job: its name becomes free, its history stays. */
    void drop(long job);

    /** Adds lines to the change log. */
    void addChanges(List<Change> changes);

    /**
     * Reads definitions; versions never change, so what was read may be kept. Those that a newer version of the software
     * wrote and this one cannot read are left out.
     */
    Map<VersionKey, Job> definitions(Collection<VersionKey> keys);

    // Calendars and zone rules.

    /** Reads the newest versions of calendars, locking nothing. */
    Map<CalendarName, CalendarRow> calendars(Collection<CalendarName> keys);

    /** Adds versions of calendars. */
    void addCalendars(List<CalendarRow> versions);

    /** Locks live jobs whose definition goes by another version of a calendar than a given one. */
    List<JobRow> lockJobsUsing(CalendarName calendar, int otherThan, int limit);

    /** Locks live jobs by id, beginning after one. */
    List<JobRow> lockJobsAfter(long id, int limit);

    /** Reads the version of the zone rules that all jobs' next occurrences were computed with; empty if none was noted. */
    String tzdata();

    /** Notes that version. */
    void tzdata(String version);

    /** Reads the highest revision of a source of definitions that was ever applied; empty if none was stated. */
    OptionalLong revision(String source);

    /** Forgets what revision of a source was applied, and of which builds its jobs are; returns how many live jobs it has. */
    int accept(String source);

    /** Reads when the applications were built whose definitions of jobs are in force, as far as that is known. */
    Map<Long, Instant> builds(Collection<Long> jobs);

    /** Notes of which build the definitions of jobs are; none if they are not ordered by builds. */
    void build(Collection<Long> jobs, Optional<Instant> built);

    /** Notes the revision of a source. */
    void revision(String source, long number, String who);

    // Planning.

    /**
     * Locks jobs whose next occurrence is due by the database's clock, earliest first, passing over
     * those that others hold.
     *
     * @param hint nothing earlier is expected; empty to look from the beginning
     * @param trusted what is due after this is left, if given: the database's clock is in doubt
     * @param share only its jobs
     */
    List<JobRow> lockDueJobs(Optional<Instant> hint, Optional<Instant> trusted, Share share, int limit);

    /** Locks jobs whose next occurrence is at an instant, passing over those that others hold; it may still be to come. */
    List<JobRow> lockJobsDueAt(Instant due, Share share, int limit);

    /** Reads the names of live jobs that were due at an instant and that others hold locked all the same. */
    List<JobName> lockedDueJobs(Instant dueBefore, int limit);

    /** Locks jobs by id; dropped ones too. */
    Map<Long, JobRow> lockJobsById(Collection<Long> ids);

    /** Writes what planning or settling changed on locked jobs. */
    void advance(List<JobAdvance> changes);

    /** Takes fresh run ids and fence numbers, each higher than any taken before. */
    Numbers take(int count);

    /** Adds live runs. */
    void addRuns(List<RunRow> runs);

    /** Adds ledger lines of runs that never were live. */
    void addLines(List<LedgerLine> lines);

    /** Adds spans. */
    void addSpans(List<Span> spans);

    // Running.

    /** Leases waiting runs to a session, by priority and then by time, passing over those that others hold. */
    List<RunRow> claim(Claim claim);

    /** Ends leased runs: live row out, ledger line in, and a settle row where something follows the end or somebody awaits it. */
    Ended end(List<RunEnd> ends);

    /**
     * Takes the lease off runs that are to be tried again.
     *
     * @return the leases that still held; the others are refused
     */
    Set<LeaseKey> release(List<RunRelease> releases);

    /** Locks a run if it is still leased as stated, waiting for whoever has it locked. */
    boolean holdLease(LeaseKey lease);

    /** Writes how far leased runs are; those whose lease is gone are passed over. */
    void progress(List<ProgressNote> notes);

    /** Writes what leased runs have printed so far; those whose lease is gone are passed over. What an attempt printed in all comes with its end. */
    void printed(List<PrintedNote> notes);

    /** {@return whether the ledger has the end of a run under this very lease} */
    boolean ended(LeaseKey lease);

    /** Of leases that no longer hold, returns those whose end is on record already. */
    Set<LeaseKey> recorded(Collection<LeaseKey> leases);

    /** {@return the steps of orders by hand} */
    OrderSteps orders();

    /** {@return the steps on requests that carry a key} */
    RequestSteps requests();

    // Settling.

    /**
     * Lets the transaction commit asynchronously: a crash may lose all of it, and the next instance then finds its work undone. A later
     * commit that does wait makes this one durable too.
     */
    void mayBeForgotten();

    /** {@return runs whose ends are to be settled, by id, looking into none of them} */
    List<Long> unsettled(int limit);

    /** Takes what is to be settled of ended runs; skips those that others hold. */
    List<Settle> takeUnsettled(Collection<Long> runs);

    /**
     * Has the ends of all live runs of locked jobs settled from now on, passing over those that others hold. Whoever makes a run wait
     * for them asks for it in the same transaction.
     */
    Awaited await(Collection<Long> jobs);

    /**
     * Notes that somebody is to look whether waiting runs may go: an end was under way when they came to wait, or there is room
     * for another reason than an end. What is noted already stays.
     *
     * @param jobs of each run its job
     */
    void lookAgain(Map<Long, Long> jobs);

    /** Lets waiting runs of locked jobs go: they may be claimed from an instant on. */
    void letGo(Collection<Long> runs, Instant readyAt);

    // Sessions.

    /** {@return the steps on sessions} */
    SessionSteps sessions();

    /** Locks runs leased to a session, passing over those that others hold. */
    List<RunRow> lockRunsOf(UUID session, int limit);

    /** Reads the ids of waiting runs that a session owes and nobody else may take. */
    List<Long> waitingOnlyFor(UUID session);

    /** Reads the fences of all runs leased to a session, by run. */
    Map<Long, Long> leasedTo(UUID session);

    /** {@return the steps on leases by name} */
    NamedLeaseSteps leases();

    /** {@return the steps on tokens and sign-ins} */
    AccessSteps access();

    /** {@return the steps on notices} */
    NoticeSteps notices();

    /** {@return the steps of the feed} */
    FeedSteps feed();

    // Sweeping.

    /** {@return the steps of sealing} */
    SealSteps seals();

    /** {@return the steps of summing up the ledger by job and hour} */
    RollUpSteps rollUp();

    /** {@return the steps of retention} */
    RetentionSteps retention();

    /** Locks jobs whose row says that only the newest run can be live, although another one is. */
    List<JobRow> crowdedUnawares(int limit);

    /** Reads, without locking, jobs that are not paused and of which runs wait although places of the job are free. */
    List<Long> jobsWithRoomAndWaiting(int limit);
}
