package dev.brume.http.internal.console;

import dev.brume.JobName;
import java.util.List;
import java.util.Locale;

/**
 * A row of the board.
 *
 * @param job its name
 * @param id that names the row on the page
 * @param state a word about the job itself, such as paused; empty if there is nothing to say
 * @param summary what was owed and what became of it, in words
 * @param trouble whether something in it needs a person
 * @param marks earliest first
 */
public record BoardLine(JobName job, String id, String state, String summary, boolean trouble, List<Mark> marks) {
    /** {@return the name of a row on the page} */
    static String idOf(JobName job) {
        return "row-" + (job.namespace() + "." + job.name()).toLowerCase(Locale.ROOT);
    }

    /** Rows that stand together. */
    public record Group(String name, List<BoardLine> lines) {}
}
