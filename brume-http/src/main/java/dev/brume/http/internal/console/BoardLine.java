package dev.brume.http.internal.console;

import dev.brume.JobName;
import java.util.List;

/**
 * A row of the board.
 *
 * @param job its name
 * @param id that names the row on the page: the job's own, since a name may be that of a dropped one too
 * @param state a word about the job itself, such as paused; empty if there is nothing to say
 * @param summary what was owed and what became of it, in words
 * @param trouble whether something in it needs a person
 * @param marks earliest first
 */
public record BoardLine(JobName job, String id, String state, String summary, boolean trouble, List<Drawn> marks) {
    /** Rows that stand together. */
    public record Group(String name, List<BoardLine> lines) {}
}
