package dev.brume.history;

import dev.brume.JobName;
import java.util.List;
import java.util.Optional;

/**
 * The result of an order to erase the content of a run.
 *
 * @param run whose
 * @param job of which job
 * @param content what there was of it and is no more, as digests
 * @param earlier the erasure before, if one was
 * @param reruns other runs of the same occurrence whose content is still there: each has its own
 * @see dev.brume.Orders#erase(long...)
 * @since 0.1.0
 */
public record Erased(long run, JobName job, Content content, Optional<Erasure> earlier, List<Long> reruns) {}
