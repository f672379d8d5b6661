package dev.brume.history;

import dev.brume.GateKey;
import java.time.Instant;
import java.util.List;
import java.util.SortedMap;
import java.util.SortedSet;

/**
 * What was in force at an instant, as it is known now, beside what definitions and the ledger say of themselves.
 *
 * @param at the instant; what began at it is in force, what ended at it is not
 * @param pauses that were in force, oldest first
 * @param caps how many places the shared gates had
 * @param sessions that lived, by when they began, each with the state that it had; of renewals only the last is known
 * @param waiting runs that waited for a place
 * @since 0.1.0
 */
public record Past(
        Instant at,
        List<Pause> pauses,
        SortedMap<GateKey, Integer> caps,
        List<SessionRow> sessions,
        SortedSet<Long> waiting) {}
