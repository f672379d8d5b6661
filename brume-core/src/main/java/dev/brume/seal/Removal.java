package dev.brume.seal;

import java.time.Instant;
import java.util.Optional;

/**
 * A note that says that retention removed lines of the ledger.
 *
 * @param change the number of its line in the change log
 * @param at when
 * @param who had it done
 * @param from from where
 * @param text what it says
 * @param lines the numbers of the sealed lines that it names
 * @param doubt why it is not believed; empty if it is
 */
public record Removal(
        long change, Instant at, String who, String from, String text, IdRanges lines, Optional<String> doubt) {}
