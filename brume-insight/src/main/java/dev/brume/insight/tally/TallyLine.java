package dev.brume.insight.tally;

import dev.brume.history.JobAccount;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.Optional;

/**
 * One occurrence with its verdict.
 *
 * @param planned the occurrence
 * @param zone of its schedule
 * @param version of the definition that owed it
 * @param verdict what became of it
 * @param line its run or ledger line, if there is one
 * @param late how long after its time it began
 * @param reason why it did not run, if it did not
 * @since 0.1.0
 */
public record TallyLine(
        Instant planned,
        ZoneId zone,
        int version,
        Verdict verdict,
        Optional<JobAccount.Line> line,
        Optional<Duration> late,
        Optional<String> reason) {}
