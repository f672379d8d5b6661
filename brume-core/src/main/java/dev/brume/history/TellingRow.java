package dev.brume.history;

import dev.brume.notice.Telling;
import java.time.Instant;

/**
 * What a source says about notices, in one of its versions.
 *
 * @param source in full
 * @param number of the version, from 1
 * @param telling what it says
 * @param definedAt when it came into force
 * @since 0.1.0
 */
public record TellingRow(String source, int number, Telling telling, Instant definedAt) {}
