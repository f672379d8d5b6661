package dev.brume.spi;

import dev.brume.history.CauseRow;
import dev.brume.history.JobRow;
import dev.brume.history.NoticeRow;
import dev.brume.history.TellingRow;
import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/**
 * The steps on notices, within a transaction.
 *
 * <p>What is decided about causes is decided with the head locked, so that however many instances look, each thing is told once. What happened is
 * noted by the transaction in which it does, as far as the head says that it is wanted; whoever decides takes the notes away in the transaction that
 * writes what is told of them.
 *
 * @since 0.1.0
 */
public interface NoticeSteps {

    /** Locks the head, waiting for whoever has it locked. */
    NoticeHead lock();

    /** Reads the head without locking it. */
    NoticeHead read();

    /** Writes the locked head. */
    void write(NoticeHead head);

    /** Reads what each source says in its newest version. */
    List<TellingRow> tellings();

    /** Adds a version of what a source says. */
    void add(TellingRow row);

    /** Reads what happened and was not decided about, oldest first, by number. */
    Map<Long, List<Notable>> notables(int limit);

    /** Removes notes of what happened. */
    void forget(Collection<Long> notes);

    /** Reads jobs by their ids, dropped ones too, locking nothing. */
    Map<Long, JobRow> jobs(Collection<Long> ids);

    /** Reads causes by their keys. */
    Map<String, CauseRow> causes(Collection<String> keys);

    /** Reads the causes that go on, those seen last first. */
    List<CauseRow> openCauses(int limit);

    /** Reads causes that are to be looked at by an instant, earliest first. */
    List<CauseRow> dueCauses(Instant by, int limit);

    /** Writes causes, new ones too. */
    void write(Collection<CauseRow> causes);

    /** Adds notices in their order; one whose id is there already is left as it is. */
    void addNotices(List<NoticeRow> notices);

    /**
     * Leases notices that wait and are due, passing over those that others hold locked; of one cause and channel the oldest that waits alone, or, where
     * a channel takes several at once, the oldest in a row.
     *
     * @param together how many notices of a channel may go at once, by channel; others are not leased
     * @param holder who sends them
     * @param until when the lease ends
     */
    List<NoticeRow> lease(Map<String, Integer> together, String holder, Instant until, int limit);

    /** Writes what became of leased notices; returns the ids of those that were still leased so. */
    Set<String> settle(Collection<NoticeRow> notices, String holder);

    /** Reads when the next notice that waits is due; empty if none is. */
    Optional<Instant> nextNotice();

    /** Locks a notice by its id. */
    Optional<NoticeRow> lockNotice(String id);

    /** Writes a locked notice. */
    void write(NoticeRow notice);

    /** Removes notices that were settled before an instant, and causes that were over before it; returns how many. */
    int tidy(Instant before, int limit);
}
