package dev.brume.spi;

import java.time.Instant;
import java.util.Optional;

/**
 * A request that was heard.
 *
 * @param key its key
 * @param digest of what was asked for; the same key with another digest is another request, and refused
 * @param begunAt when it was heard first
 * @param answer what was answered; empty as long as it is not done, so that it is gone on with
 * @param run the run that it made, if it made one: as long as that is on record, so is the request
 * @since 0.1.0
 */
public record RequestRow(RequestKey key, String digest, Instant begunAt, Optional<String> answer, Optional<Long> run) {}
