package dev.brume.spi;

import dev.brume.JobName;
import dev.brume.Keep;
import dev.brume.history.Content;
import dev.brume.history.Erasure;
import dev.brume.history.IdRanges;
import dev.brume.history.Kept;
import dev.brume.history.Span;
import java.time.Duration;
import java.time.Instant;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;

/**
 * The steps of retention, within one transaction: nobody else removes lines from the ledger. Confined to one thread.
 *
 * @since 0.1.0
 */
public interface RetentionSteps {

    /** Locks the bounds of the whole; whoever sets them waits here for others that do. */
    void lock();

    /** Reads the bounds of the ledger as a whole, which no job's own exceed. */
    Keep total();

    /** Sets the bounds of the ledger as a whole. */
    void total(Keep keep);

    /** Reads the age below which nothing goes by a job's own bounds; empty if they may remove anything. */
    Optional<Duration> floor();

    /** Sets the age below which nothing goes by a job's own bounds. */
    void floor(Optional<Duration> age);

    /** Reads the newest line of the change log of kind BOUNDED that begins with a text. */
    Optional<String> said(String beginning);

    /** Reads when the ledger was last looked through. */
    Optional<Instant> appliedAt();

    /** Reads before which instant lines of any job may have been removed. */
    Instant keptFrom();

    /** Reads before which instant lines of a job may have been removed, by its own bounds or those of the whole. */
    Instant keptFrom(long job);

    /** Reads the jobs that have bounds of their own, dropped ones too, by id, beginning after one. */
    List<Kept> jobs(long after, int limit);

    /** Notes that the ledger is looked through now; false if someone has done so since an instant. */
    boolean begin(Instant unlessSince);

    /**
     * Removes the oldest ledger lines, with their output and what else belongs to them, and notes how far.
     *
     * @param job of this job, or of all if empty
     * @param before only what was planned before it
     * @param limit how many at most
     */
    Removed remove(Optional<Long> job, Instant before, int limit);

    /**
     * Gives the months from one instant to another their places, where the ledger lies in months and they have none.
     *
     * @return how many were added
     */
    int addMonths(Instant from, Instant until);

    /**
     * Removes the oldest month of the ledger as a whole, with what belongs to its lines, and notes how far; empty if none ended by an instant,
     * or the ledger does not lie in months.
     *
     * @param before only a month that ended by it; the bounds of the whole must be beyond it
     * @param isNumbered whether the answer is to say which lines there were
     */
    Optional<Removed> removeMonth(Instant before, boolean isNumbered);

    /**
     * Gives up the places of months that ended by an instant and hold nothing any more.
     *
     * @return how many
     */
    int dropMonths(Instant before);

    /**
     * Removes spans that end before an instant.
     *
     * @see #remove
     */
    Removed removeSpans(Optional<Long> job, Instant before, int limit);

    /**
     * Reads what a line of the ledger holds of content.
     *
     * @param run its run
     */
    Optional<Content> content(long run);

    /** Reads the erasure of a run's content. */
    Optional<Erasure> erasure(long run);

    /** {@return the ended runs that were made for a key of one-offs, of the live job of a name} */
    List<Long> runsOf(JobName job, String key);

    /** Reads the runs by hand of the same occurrence as one that has ended, itself left out, by number; live ones too. */
    List<Long> rerunsOf(long run);

    /** Removes the content of an ended run, what it printed included, and notes that. */
    void erase(Erasure erasure);

    /**
     * Notes that nothing before an instant is left to remove. The sums of days before it go too, and if it is of all jobs, what was in force only
     * before it.
     */
    void close(Optional<Long> job, Instant before);

    /**
     * Reads the ledger from its newest line back, a page at a time.
     *
     * @param after the last of the page before; empty for the first
     */
    List<Place> newest(Optional<Place> after, int limit);

    /**
     * What was removed.
     *
     * @param count how many
     * @param first the earliest occurrence, empty if there were none
     * @param last the latest
     * @param numbers which
     */
    record Removed(long count, Optional<Instant> first, Optional<Instant> last, IdRanges numbers) {
        /** Nothing was. */
        public static final Removed NOTHING = new Removed(0, Optional.empty(), Optional.empty(), IdRanges.NONE);

        /** {@return what was removed if some spans were} */
        public static Removed spans(List<Span> spans, IdRanges numbers) {
            return new Removed(
                    spans.size(),
                    spans.stream().map(Span::first).min(Comparator.naturalOrder()),
                    spans.stream().map(Span::last).max(Comparator.naturalOrder()),
                    numbers);
        }
    }

    /**
     * A line's place in the ledger.
     *
     * @param planned the occurrence
     * @param job the job's id
     * @param slot tells apart runs of one occurrence
     */
    record Place(Instant planned, long job, String slot) {}
}
