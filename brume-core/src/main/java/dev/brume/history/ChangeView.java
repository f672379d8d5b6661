package dev.brume.history;

import java.time.Instant;

/**
 * A line of the change log to be looked at.
 *
 * @param id of the line; rises with time
 * @param at when, by the database's clock
 * @param change what was done
 * @since 0.1.0
 */
public record ChangeView(long id, Instant at, Change change) {}
