package dev.brume;

import java.util.Optional;

/**
 * How a run ended.
 *
 * @param run its id
 * @param outcome how
 * @param reason why, where the outcome has one, such as {@code TOO_LATE}
 * @param value what its work returned: the text that it last gave {@link Run#result}
 * @param error what its last attempt failed of
 * @since 0.1.0
 */
public record RunResult(
        long run, Outcome outcome, Optional<String> reason, Optional<String> value, Optional<String> error) {

    /**
     * {@return what its work returned, as a value}
     *
     * @param <R> what an answer is
     * @param type how it is read
     * @throws RunFailedException if it did not succeed
     * @throws RuntimeException whatever the type throws if it cannot read it
     */
    public <R> Optional<R> value(PayloadType<R> type) {
        return valueIfSucceeded().map(type.read());
    }

    /** {@return whether it succeeded} */
    public boolean succeeded() {
        return outcome == Outcome.SUCCEEDED;
    }

    /**
     * {@return what its work returned, empty if it returned nothing}
     *
     * @throws RunFailedException if it did not succeed
     */
    public Optional<String> valueIfSucceeded() {
        if (!succeeded()) {
            throw new RunFailedException(this);
        }
        return value;
    }
}
