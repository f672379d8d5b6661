package dev.brume;

import java.util.List;
import java.util.Map;

/**
 * What became of an order about many runs, each of which was a transaction of its own.
 *
 * @param done the runs that were ordered anew, or that were cancelled or asked to stop
 * @param left the others, by run, with why they were left as they are
 * @since 0.1.0
 */
public record BulkOrder(List<RunHandle> done, Map<Long, String> left) {}
