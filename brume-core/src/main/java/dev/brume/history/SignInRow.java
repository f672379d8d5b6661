package dev.brume.history;

import dev.brume.Grant;
import java.time.Instant;
import java.util.Optional;

/**
 * Somebody who has signed in on a page.
 *
 * @param who they are
 * @param grant what they may do, and where
 * @param token whose holder they are: it ends with that; empty if they were let in without one
 * @param begunAt when they signed in
 * @param until when it ends by itself
 * @since 0.1.0
 */
public record SignInRow(String who, Grant grant, Optional<String> token, Instant begunAt, Instant until) {}
