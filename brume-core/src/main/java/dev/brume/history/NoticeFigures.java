package dev.brume.history;

import java.time.Instant;
import java.util.Optional;

/**
 * How telling fares.
 *
 * @param waiting how many notices are to be sent
 * @param oldestWaiting when the oldest of them was decided
 * @param undelivered how many are kept that were not delivered
 * @param delivered how many are kept that were
 * @param folded how many more came of what goes on than were told
 * @param causes how many causes go on
 * @param undecided how much happened that is yet to be looked at
 * @since 0.1.0
 */
public record NoticeFigures(
        long waiting,
        Optional<Instant> oldestWaiting,
        long undelivered,
        long delivered,
        long folded,
        long causes,
        long undecided) {}
