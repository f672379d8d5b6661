package dev.brume.spi;

import dev.brume.history.IdRanges;
import dev.brume.history.JobAccount;
import dev.brume.history.LineSums;
import dev.brume.history.Reach;
import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.SortedMap;

/**
 * The steps of summing up the ledger by job and hour, within one transaction. Each line is added once, by its run's number. Confined to one
 * thread.
 *
 * @since 0.1.0
 */
public interface RollUpSteps {

    /** Locks and returns how far summing up has come; whoever else sums up waits here. */
    Reach lockReach();

    /** Writes how far it has come. */
    void reach(Reach reach);

    /**
     * Reads lines by run number, lowest first, those that are committed.
     *
     * @param beyond those with a higher number
     * @param open and those in it
     * @param limit how many at most
     */
    List<Line> lines(long beyond, IdRanges open, int limit);

    /** Reads the sums of some days, by the beginnings of their hours; days without sums are left out. */
    Map<Day, SortedMap<Instant, LineSums>> read(Collection<Day> days);

    /** Writes the sums of some days, in place of those that there are. */
    void write(Map<Day, SortedMap<Instant, LineSums>> days);

    /** Removes all sums, so that all is summed up anew. */
    void clear();

    /**
     * A line of the ledger.
     *
     * @param job its job's id
     * @param line what is to be summed up of it
     */
    record Line(long job, JobAccount.Line line) {}

    /**
     * A day of a job.
     *
     * @param job its id
     * @param begin midnight UTC
     */
    record Day(long job, Instant begin) {}
}
