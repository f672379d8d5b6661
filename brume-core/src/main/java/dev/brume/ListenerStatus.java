package dev.brume;

/**
 * How a listener or a check fares.
 *
 * @param name as it was given
 * @param told how many events it was told of, or runs it was asked about
 * @param failed how often it threw
 * @param passedOver how many events it was too slow for, or questions it did not answer in time
 * @param waiting how many events wait for it
 * @since 0.1.0
 */
public record ListenerStatus(String name, long told, long failed, long passedOver, int waiting) {}
