package dev.brume.cli.desk;

import dev.brume.OneOffAnswer;
import java.util.Optional;

/**
 * What came of an order about a one-off.
 *
 * @param kind of answer
 * @param run that it is, or will be
 */
public record OneOffReply(OneOffAnswer.Kind kind, Optional<Long> run) {}
