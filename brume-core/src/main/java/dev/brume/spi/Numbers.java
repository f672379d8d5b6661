package dev.brume.spi;

import java.util.List;

/**
 * Fresh numbers, as many of each as were asked for.
 *
 * @param ids for runs
 * @param fences for leases, without the epoch
 * @since 0.1.0
 */
public record Numbers(List<Long> ids, List<Long> fences) {}
