package dev.brume.history;

import dev.brume.JobName;
import java.time.Instant;
import java.util.Optional;

/**
 * A job as the store holds it. The row is the job's lock point and its gate.
 *
 * @param id never used again, even when a job of the same name comes back
 * @param name the name
 * @param version the number of the definition in force
 * @param source where the definition came from
 * @param cursor every occurrence up to here, inclusive, has been decided
 * @param nextAt when there is something to decide next: about an occurrence, or the turn of a pause; empty if there is nothing
 * @param used how many places are taken: live runs that do not wait, counted when the row was read
 * @param cap how many places there are
 * @param waiting how many runs wait, counted when the row was read
 * @param runs its newest runs
 * @param afterEnd where its schedule stands that goes by the ends of runs, if it has one
 * @param dropped whether it owes nothing any more
 * @param pause how it stands with the pauses that cover it
 * @since 0.1.0
 */
public record JobRow(
        long id,
        JobName name,
        int version,
        String source,
        Instant cursor,
        Optional<Instant> nextAt,
        int used,
        int cap,
        int waiting,
        NewestRuns runs,
        Optional<AfterEnd> afterEnd,
        boolean dropped,
        PauseMark pause) {

    /** {@return the row with other counts of places taken and runs that wait} */
    public JobRow counted(int taken, int waits) {
        return new JobRow(id, name, version, source, cursor, nextAt, taken, cap, waits, runs, afterEnd, dropped, pause);
    }

    /** {@return the row with other newest runs} */
    public JobRow with(NewestRuns newest) {
        return new JobRow(
                id, name, version, source, cursor, nextAt, used, cap, waiting, newest, afterEnd, dropped, pause);
    }

    /** {@return the row of a job that owes nothing any more} */
    public JobRow owingNothing() {
        return new JobRow(
                id,
                name,
                version,
                source,
                cursor,
                Optional.empty(),
                used,
                cap,
                waiting,
                runs,
                Optional.empty(),
                true,
                new PauseMark(pause.state(), Optional.empty()));
    }

    /** {@return the row with another next occurrence} */
    public JobRow due(Optional<Instant> next) {
        return new JobRow(id, name, version, source, cursor, next, used, cap, waiting, runs, afterEnd, dropped, pause);
    }

    /** {@return the row under another name} */
    public JobRow named(JobName other) {
        return new JobRow(
                id, other, version, source, cursor, nextAt, used, cap, waiting, runs, afterEnd, dropped, pause);
    }

    /** {@return the row with another mark of pauses, which may leave less to decide} */
    public JobRow with(PauseMark mark) {
        return new JobRow(
                id, name, version, source, cursor, mark.due(nextAt), used, cap, waiting, runs, afterEnd, dropped, mark);
    }

    /** {@return whether it owes nothing for now} */
    public boolean paused() {
        return pause.paused();
    }

    /** {@return when its next occurrence is due; empty if it is paused, or a pause begins before it} */
    public Optional<Instant> nextOccurrence() {
        return nextAt.filter(at -> !paused() && !pause.turnsAt().equals(nextAt));
    }

    /** {@return how many runs of the job are live, counted when the row was read} */
    public int live() {
        return used + waiting;
    }

    /** {@return the key of the definition in force} */
    public VersionKey versionKey() {
        return new VersionKey(id, version);
    }
}
