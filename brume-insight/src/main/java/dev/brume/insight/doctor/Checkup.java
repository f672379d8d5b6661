package dev.brume.insight.doctor;

import dev.brume.Brume;
import dev.brume.history.Health;
import dev.brume.history.History;
import dev.brume.history.JobView;
import dev.brume.history.SessionView;
import dev.brume.internal.duty.Settings;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.function.Function;

/**
 * Looks at everything there is for what is wrong or will go wrong.
 *
 * @param history to read
 * @param wall this machine's clock, read beside the database's
 * @param tzdata the version of this runtime's zone rules
 * @param times writes an instant for the reader
 * @since 0.1.0
 */
public record Checkup(History history, Instant wall, String tzdata, Function<Instant, String> times) {
    private static final Duration LONG_DUE = Duration.ofSeconds(15);

    /**
     * The result of a checkup.
     *
     * @param findings the worst first
     * @param product which database
     * @param jobs how many there are
     * @param alive how many instances live
     */
    public record Result(List<Finding> findings, String product, int jobs, int alive) {

        /** {@return whether something of a severity, or worse, was found} */
        public boolean has(Finding.Severity severity) {
            return findings.stream().anyMatch(finding -> finding.severity().compareTo(severity) <= 0);
        }
    }

    /** {@return a checkup of what an instance shares with others, which tells times in UTC} */
    public static Checkup of(Brume brume) {
        Instant wall = brume.history().now().plus(brume.vitals().clockAhead());
        return new Checkup(brume.history(), wall, Settings.ownTzdata(), Instant::toString);
    }

    /** Looks. */
    public Result look() {
        Instant now = history.now();
        List<SessionView> sessions = history.sessions(/* ended= */ false);
        List<JobView> jobs = history.jobs();
        Health health = history.health(now.minus(LONG_DUE));
        Findings found = new Findings();
        new DatabaseCheck(health, history, now, times, found).look();
        new InstancesCheck(sessions, jobs, health, history, this, now, found).look();
        new JobsCheck(jobs, sessions, history, now, times, found).look();
        new NoticesCheck(history, now, times, found).look();
        int alive = (int) sessions.stream()
                .filter(session -> !session.row().lapsedAt(now))
                .count();
        return new Result(found.all(), health.product(), jobs.size(), alive);
    }
}
