package dev.brume.history;

import java.time.Instant;

/**
 * That the content of a run was erased. The line of the ledger stays, and with these digests so does its seal.
 *
 * @param run whose
 * @param at the database's clock
 * @param who had it erased
 * @param because why
 * @param content what there was of it
 * @since 0.1.0
 */
public record Erasure(long run, Instant at, String who, String because, Content content) {}
