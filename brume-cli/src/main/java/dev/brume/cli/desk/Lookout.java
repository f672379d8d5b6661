package dev.brume.cli.desk;

import dev.brume.JobName;
import dev.brume.history.History;
import dev.brume.history.JobView;
import dev.brume.insight.doctor.Checkup;
import dev.brume.insight.why.Answer;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * Where commands look: at a store, or at a server before one. What is on record is read from its {@link #history}; what is worked out of
 * the record is asked for as a whole, since whoever has the record works it out.
 */
public interface Lookout {
    /** {@return what is on record} */
    History history();

    /** {@return the same as it was at an instant of the past: jobs, runs, instances, pauses and limits} */
    Lookout asOf(Instant then);

    /** {@return how many instances live} */
    long alive();

    /**
     * {@return why a job runs or does not}
     *
     * @param then what became of the occurrence at an instant of the past; how it stands now if empty
     * @param zone in which sentences tell times
     */
    Answer why(JobView job, Optional<Instant> then, ZoneId zone);

    /** {@return a run in full, with why it was skipped and what was erased of it; empty if it is not on record} */
    Optional<Seen> shown(long run);

    /** {@return what was owed in a period, held against what is on record} */
    Seen tally(Optional<JobName> job, Instant from, Instant until, boolean lineByLine);

    /**
     * {@return a tally as a page to be printed}
     *
     * @param who writes it
     * @param with which version of the command
     * @param of which database; a server names its own
     */
    String tallyPage(Optional<JobName> job, Instant from, Instant until, String who, String with, String of);

    /** {@return how runs of a period went} */
    Seen figures(Optional<JobName> job, Instant from, Instant until, boolean lineByLine);

    /** {@return what is wrong, its times in a zone} */
    Checkup.Result findings(ZoneId zone);

    /** {@return whether all is as it was sealed, and the head that was kept elsewhere, if one was, is among the seals} */
    Seen sealCheck(Optional<String> head);

    /** {@return of which hours and days of a period the sums are not those of the lines} */
    Seen sumsChecked(Instant from, Instant until);

    /** {@return how long the last runs of each job took, of so long back} */
    Map<JobName, List<Duration>> took(Duration measured);

    /** {@return how long half of the runs of a job took at most that ended in a period; empty if none did} */
    Optional<Duration> usually(JobName job, Instant from, Instant until);
}
