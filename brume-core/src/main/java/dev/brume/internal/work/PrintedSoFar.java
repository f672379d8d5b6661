package dev.brume.internal.work;

import dev.brume.history.Output;
import dev.brume.internal.duty.Printing;
import java.util.Optional;

/**
 * What an attempt that runs has printed.
 *
 * @param output where it prints
 * @param attempt knows what is secret
 */
record PrintedSoFar(OutputBuffer output, ActiveAttempt attempt) implements Printing.Printed {
    @Override
    public long bytes() {
        return output.bytes();
    }

    @Override
    public Optional<Output> end(int longest) {
        return output.end(attempt.mask(), longest);
    }
}
