package dev.brume.insight.internal;

import dev.brume.AttemptEnd;
import dev.brume.history.Output;
import java.time.Duration;
import java.util.Optional;

/**
 * The course of one attempt in virtual time, unless it is stopped before.
 *
 * @param takes how long it takes, from 0
 * @param end how it ends
 * @param error what went wrong, in words
 * @param result what it returns
 * @param output what it prints
 */
public record Effort(
        Duration takes, AttemptEnd end, Optional<String> error, Optional<String> result, Optional<Output> output) {

    /** Work that does well. */
    public static Effort of(Duration takes) {
        return new Effort(takes, AttemptEnd.SUCCEEDED, Optional.empty(), Optional.empty(), Optional.empty());
    }

    /** Work that fails. */
    public static Effort failing(Duration takes, String error) {
        return new Effort(takes, AttemptEnd.FAILED, Optional.of(error), Optional.empty(), Optional.empty());
    }

    /** {@return the same with what it returns} */
    public Effort returning(String text) {
        return new Effort(takes, end, error, Optional.of(text), output);
    }

    /** {@return the same with what it prints, which must be short} */
    public Effort printing(String text) {
        return new Effort(takes, end, error, result, Optional.of(new Output(text, text.length(), 0)));
    }
}
