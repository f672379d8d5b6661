package dev.brume.history;

/**
 * A session to be looked at.
 *
 * @param row as it stands
 * @param runs how many runs it holds
 * @since 0.1.0
 */
public record SessionView(SessionRow row, int runs) {}
