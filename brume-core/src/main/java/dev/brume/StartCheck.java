package dev.brume;

import java.util.Optional;

/**
 * Is asked before each attempt starts, and may turn it down: the run ends as {@code SKIPPED}, reason {@code TURNED_DOWN},
 * with its words.
 *
 * <p>It is asked on a thread of its own and has {@value #SECONDS} seconds. A check that throws, or does not answer in time, is
 * counted and reported, and turns nothing down.
 *
 * @since 0.1.0
 */
@FunctionalInterface
public interface StartCheck {
    /** How long an answer may take, in seconds. */
    int SECONDS = 2;

    /**
     * Answers.
     *
     * @return why the run must not start; empty if it may
     */
    Optional<String> turnDown(Run run) throws Exception;
}
