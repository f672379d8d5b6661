package dev.brume.spi;

import java.time.Instant;
import java.util.Optional;

/**
 * The next instants at which something will be due.
 *
 * @param now the database's clock
 * @param nextDue when the next job of the share asked for owes an occurrence
 * @param nextOfAny when the next job of anyone does
 * @param nextOneOff when the next one-off is due that no run was made of
 * @param nextOpening when the next rate lets more begin, and runs may wait for it
 * @param nextReady when the next run may be taken from the lanes asked for
 * @param unsettled whether ends wait to be settled; false unless a wide look was asked for
 * @param lapsed whether sessions have lapsed and still own runs; false unless a wide look was asked for
 * @param stops whether runs are to be stopped; false unless a wide look was asked for
 * @param tooLate whether runs wait that should have begun by now; false unless a wide look was asked for
 * @param beyond whether jobs are due that only newer instances can read; false unless a wide look was asked for
 * @param endsAwaited whether somebody waits for ends of runs elsewhere; false unless a wide look was asked for
 * @since 0.1.0
 */
public record Outlook(
        Instant now,
        Optional<Instant> nextDue,
        Optional<Instant> nextOfAny,
        Optional<Instant> nextOneOff,
        Optional<Instant> nextOpening,
        Optional<Instant> nextReady,
        boolean unsettled,
        boolean lapsed,
        boolean stops,
        boolean tooLate,
        boolean beyond,
        boolean endsAwaited) {}
