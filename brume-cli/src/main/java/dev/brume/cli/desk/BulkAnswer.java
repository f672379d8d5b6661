package dev.brume.cli.desk;

import java.util.List;
import java.util.Map;

/**
 * What came of an order about many runs.
 *
 * @param done the runs that it came to
 * @param left why others are left as they are
 */
public record BulkAnswer(List<Long> done, Map<Long, String> left) {}
