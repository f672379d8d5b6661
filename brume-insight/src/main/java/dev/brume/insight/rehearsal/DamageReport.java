package dev.brume.insight.rehearsal;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.history.Span;
import dev.brume.notice.Channel;
import dev.brume.notice.Notice;
import dev.brume.notice.Sender;
import dev.brume.notice.Way;
import dev.brume.spi.LedgerLine;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;

/** Gathers what goes wrong during a rehearsal. Confined to one thread. */
final class DamageReport implements Sender {
    private static final int MOST = 10_000;

    private final Map<Long, Long> missed = new HashMap<>();
    private final Map<Long, Long> lost = new HashMap<>();
    private final Map<Long, Long> takenOver = new HashMap<>();
    private final Map<Long, Long> failed = new HashMap<>();
    private final Map<Long, Instant> plannedFirst = new HashMap<>();
    private final List<Ended> ended = new ArrayList<>();
    private final List<Notice> told = new ArrayList<>();

    /** An end of a run, with when the first run of its chain was planned. */
    private record Ended(long job, Instant planned, Instant at) {}

    void line(LedgerLine line) {
        long job = line.owed().job();
        boolean isMissed = line.reason().filter(Reason.MISSED::equals).isPresent();
        if (isMissed) {
            missed.merge(job, 1L, Long::sum);
        } else if (line.outcome() == Outcome.LOST) {
            lost.merge(job, 1L, Long::sum);
        } else if (line.outcome() == Outcome.FAILED || line.outcome() == Outcome.TIMED_OUT) {
            failed.merge(job, 1L, Long::sum);
        }
        long taken = line.attempts().stream()
                .filter(attempt -> attempt.end().filter(AttemptEnd.LOST::equals).isPresent())
                .count();
        if (taken > 0 && line.outcome() != Outcome.LOST) {
            takenOver.merge(job, taken, Long::sum);
        }
        Instant first = line.owed()
                .parent()
                .map(parent -> plannedFirst.getOrDefault(parent, line.owed().planned()))
                .orElse(line.owed().planned());
        plannedFirst.put(line.run(), first);
        line.attempts().stream()
                .reduce((a, b) -> b)
                .flatMap(Attempt::endedAt)
                .filter(at -> ended.size() < MOST * MOST)
                .ifPresent(at -> ended.add(new Ended(job, first, at)));
    }

    void span(Span span) {
        if (span.reason().equals(Reason.MISSED.name())) {
            missed.merge(span.job(), span.count(), Long::sum);
        }
    }

    // What would have been sent.

    @Override
    public boolean sends(Way way) {
        return true;
    }

    @Override
    public int together(Way way) {
        return MOST;
    }

    @Override
    public String send(Channel channel, List<Notice> notices) {
        told.addAll(notices);
        return "";
    }

    Damage damage(Map<Long, Job> jobs) {
        return new Damage(
                named(missed, jobs), named(lost, jobs), named(takenOver, jobs), named(failed, jobs), falls(jobs), told);
    }

    private static Map<JobName, Long> named(Map<Long, Long> counts, Map<Long, Job> jobs) {
        Map<JobName, Long> named = new TreeMap<>();
        counts.forEach((id, count) -> Optional.ofNullable(jobs.get(id)).ifPresent(job -> named.put(job.name(), count)));
        return named;
    }

    private List<Damage.Fall> falls(Map<Long, Job> jobs) {
        List<Damage.Fall> falls = new ArrayList<>();
        for (Ended each : ended) {
            Job job = jobs.get(each.job);
            if (job != null && job.endBy().isPresent()) {
                Instant by = job.endBy().get().of(each.planned, zone(job, jobs));
                if (each.at.isAfter(by)) {
                    falls.add(new Damage.Fall(job.name(), each.planned, by, Duration.between(by, each.at)));
                }
            }
        }
        falls.sort(Comparator.comparing(Damage.Fall::deadline));
        return falls;
    }

    /** Of the job's own schedule, else of one that it may follow; all of a file mostly have one. */
    private static java.time.ZoneId zone(Job job, Map<Long, Job> jobs) {
        return java.util.stream.Stream.concat(
                        java.util.stream.Stream.of(job),
                        jobs.values().stream()
                                .filter(other -> other.followUps().stream()
                                        .anyMatch(followUp -> followUp.job().equals(job.name()))))
                .flatMap(each -> each.timeline().next(Instant.EPOCH).stream())
                .map(dev.brume.schedule.Occurrence::zone)
                .findFirst()
                .orElse(java.time.ZoneOffset.UTC);
    }
}
