package dev.brume.insight.board;

import dev.brume.JobName;
import dev.brume.insight.tally.JobTally;
import java.util.List;

/**
 * What was owed by one job, and what became of it.
 *
 * @param job its name
 * @param id its id
 * @param dropped whether it was dropped
 * @param cells in which there is something, earliest first
 * @param tally of the past of the scale
 * @since 0.1.0
 */
public record BoardRow(JobName job, long id, boolean dropped, List<BoardCell> cells, JobTally tally) {}
