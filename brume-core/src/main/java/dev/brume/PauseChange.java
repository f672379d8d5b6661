package dev.brume;

/**
 * The result of an order to pause or to resume.
 *
 * @param ordered whether it changed which pauses there are
 * @param jobs how many jobs changed by it
 * @since 0.1.0
 */
public record PauseChange(boolean ordered, int jobs) {}
