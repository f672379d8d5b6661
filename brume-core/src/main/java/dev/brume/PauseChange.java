package dev.brume;

/**
 * The result of an order to pause or to resume.
 *
 * @param ordered whether it changed which pauses there are
 * @param jobs how many jobs changed by it
 */
public record PauseChange(boolean ordered, int jobs) {}
