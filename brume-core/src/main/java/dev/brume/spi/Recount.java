package dev.brume.spi;

import dev.brume.history.JobRow;

/**
 * A job whose places were counted wrong.
 *
 * @param row as it is counted, locked
 * @param used the places that live runs really take
 * @param waiting the runs that really wait
 * @since 0.1.0
 */
public record Recount(JobRow row, int used, int waiting) {}
