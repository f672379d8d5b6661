package dev.brume.insight.rehearsal;

import dev.brume.AttemptEnd;
import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.history.History;
import dev.brume.history.JobAccount;
import dev.brume.history.JobView;
import dev.brume.history.Span;
import dev.brume.history.Timeframe;
import dev.brume.insight.tally.DeadlineTally;
import dev.brume.notice.Channel;
import dev.brume.notice.Notice;
import dev.brume.notice.Sender;
import dev.brume.notice.Way;
import dev.brume.spi.LedgerLine;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;

/** Gathers what goes wrong during a rehearsal. Confined to one thread. */
final class DamageReport implements Sender {
    private static final int MOST = 10_000;

    private final Map<Long, Long> missed = new HashMap<>();
    private final Map<Long, Long> lost = new HashMap<>();
    private final Map<Long, Long> takenOver = new HashMap<>();
    private final Map<Long, Long> failed = new HashMap<>();
    private final Set<Long> withDeadlines = new HashSet<>();
    private final Map<Long, List<JobAccount.Line>> lines = new HashMap<>();
    private final Map<Long, List<Span>> spans = new HashMap<>();
    private final List<Notice> told = new ArrayList<>();

    /** Has it look at deadlines, before anything happens. */
    void watchDeadlines(List<JobView> jobs) {
        Set<JobName> concerned = DeadlineTally.concerned(jobs);
        jobs.stream()
                .filter(view -> concerned.contains(view.name()))
                .forEach(view -> withDeadlines.add(view.row().id()));
    }

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
        if (withDeadlines.contains(job)) {
            lines.computeIfAbsent(job, any -> new ArrayList<>()).add(line.inAccount());
        }
    }

    void span(Span span) {
        if (span.reason().equals(Reason.MISSED.name())) {
            missed.merge(span.job(), span.count(), Long::sum);
        }
        if (withDeadlines.contains(span.job())) {
            spans.computeIfAbsent(span.job(), any -> new ArrayList<>()).add(span);
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

    /** Says what came of it, once all of it has happened. */
    Damage damage(History history, List<JobView> jobs, Instant from, Instant until) {
        Map<Long, JobName> names = new HashMap<>();
        jobs.forEach(view -> names.put(view.row().id(), view.name()));
        return new Damage(
                named(missed, names),
                named(lost, names),
                named(takenOver, names),
                named(failed, names),
                deadlines(history, jobs, from, until),
                told);
    }

    private static Map<JobName, Long> named(Map<Long, Long> counts, Map<Long, JobName> jobs) {
        Map<JobName, Long> named = new TreeMap<>();
        counts.forEach((id, count) -> Optional.ofNullable(jobs.get(id)).ifPresent(job -> named.put(job, count)));
        return named;
    }

    private Map<JobName, DeadlineTally> deadlines(History history, List<JobView> jobs, Instant from, Instant until) {
        Map<JobName, DeadlineTally> kept = new TreeMap<>();
        Set<JobName> concerned = DeadlineTally.concerned(jobs);
        if (concerned.isEmpty()) {
            return kept;
        }
        List<JobAccount> accounts = new ArrayList<>();
        history.accounts(Timeframe.between(from, until).of(concerned), account -> accounts.add(whole(account)));
        Map<Long, DeadlineTally> counted = DeadlineTally.of(jobs, accounts, from, until);
        jobs.forEach(view ->
                Optional.ofNullable(counted.get(view.row().id())).ifPresent(tally -> kept.put(view.name(), tally)));
        return kept;
    }

    /** The store has forgotten most of what ended. */
    private JobAccount whole(JobAccount account) {
        List<JobAccount.Line> all = new ArrayList<>(lines.getOrDefault(account.id(), List.of()));
        account.lines().stream().filter(line -> line.outcome().isEmpty()).forEach(all::add);
        return new JobAccount(
                account.id(),
                account.name(),
                account.dropped(),
                account.versions(),
                Instant.EPOCH,
                account.cursor(),
                all,
                spans.getOrDefault(account.id(), List.of()),
                List.of());
    }
}
