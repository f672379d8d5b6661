package dev.brume.internal.run;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.Event;
import dev.brume.StoreException;
import dev.brume.history.LeaseKey;
import dev.brume.history.RunRow;
import dev.brume.internal.decide.AfterAttempt;
import dev.brume.internal.duty.Duty;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.duty.Turns;
import dev.brume.schedule.Durations;
import dev.brume.spi.Completion;
import dev.brume.spi.RunEnd;
import dev.brume.spi.RunRelease;
import dev.brume.spi.Transaction;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.UnaryOperator;

/**
 * Reports ends: one transaction for a batch. Their consequences are drawn in another, by {@link SettleDuty}.
 *
 * <p>A batch whose commit is unclear is kept and reported again. What the store then refuses is looked
 * up: if the end is on record, it was this one that got through.
 */
public final class FinishDuty implements Duty {
    private static final Duration IDLE = Duration.ofSeconds(1);
    private static final Duration AFTER_TROUBLE = Duration.ofMillis(200);

    private final Instance instance;
    private final Runnable whenEnded;
    private List<Completion> batch = List.of();
    private boolean unclear;

    /**
     * Creates the duty.
     *
     * @param whenEnded is told when there is something to settle
     */
    public FinishDuty(Instance instance, Runnable whenEnded) {
        this.instance = instance;
        this.whenEnded = whenEnded;
    }

    @Override
    public Duration step() {
        if (batch.isEmpty()) {
            batch = instance.takeCompletions(instance.settings().batch());
        }
        if (batch.isEmpty()) {
            instance.turned(Turns.Name.FINISH);
            return IDLE;
        }
        try {
            reportAll();
        } catch (StoreException e) {
            instance.turns().failed(Turns.Name.FINISH, e);
            unclear |= e.trouble() == StoreException.Trouble.COMMIT_UNCLEAR;
            instance.tellProblem("ends could not be written yet, will try again", e);
            return AFTER_TROUBLE;
        }
        unclear = false;
        instance.turned(Turns.Name.FINISH);
        return instance.hasCompletions() ? Duration.ZERO : IDLE;
    }

    private void reportAll() {
        Report report;
        try {
            report = instance.transact(tx -> report(tx, batch));
        } catch (RuntimeException | StackOverflowError e) {
            if (!SetAside.isOfOne(e)) {
                throw e;
            }
            oneByOne();
            return;
        }
        List<Completion> reported = batch;
        batch = List.of();
        done(reported, report);
    }

    private void done(List<Completion> reported, Report report) {
        if (!report.ended.isEmpty()) {
            instance.ended(report.ended.stream().map(LeaseKey::run).toList());
            whenEnded.run();
        }
        reported.forEach(completion -> instance.letGo(completion.run()));
        reported.forEach(completion -> tell(completion, report));
    }

    /** One end that cannot be written holds up no other: it is written without what the work left behind. */
    private void oneByOne() {
        while (!batch.isEmpty()) {
            Completion first = batch.get(0);
            Optional<Report> report = reportAlone(first);
            batch = batch.subList(1, batch.size());
            report.ifPresent(written -> done(List.of(first), written));
        }
    }

    private Optional<Report> reportAlone(Completion completion) {
        try {
            return Optional.of(instance.transact(tx -> report(tx, List.of(completion))));
        } catch (RuntimeException | StackOverflowError e) {
            if (!SetAside.isOfOne(e)) {
                throw e;
            }
            instance.tellProblem("the end of run " + completion.run().id()
                    + " could not be written as it is; its output, result and error are left out: " + e);
            return reportBare(completion, e);
        }
    }

    /** An end that cannot be written even then stays leased to this session; reconciling gives it back. */
    private Optional<Report> reportBare(Completion completion, Throwable why) {
        Completion bare = new Completion(
                completion.run(),
                completion.end(),
                Optional.of("what it left behind could not be written"),
                Optional.empty(),
                Optional.empty(),
                completion.startedNanos(),
                completion.endedNanos());
        try {
            return Optional.of(instance.transact(tx -> report(tx, List.of(bare))));
        } catch (RuntimeException | StackOverflowError e) {
            if (!SetAside.isOfOne(e)) {
                throw e;
            }
            e.addSuppressed(why);
            instance.tellProblem("the end of run " + completion.run().id() + " cannot be written; it is given back", e);
            instance.letGo(completion.run());
            return Optional.empty();
        }
    }

    /** {@return whether ends are still to be reported} */
    public boolean idle() {
        return batch.isEmpty() && !instance.hasCompletions();
    }

    private record Report(Set<LeaseKey> ended, Set<LeaseKey> released, Set<LeaseKey> onRecord) {}

    private Report report(Transaction tx, List<Completion> batch) {
        List<RunEnd> ends = new ArrayList<>();
        List<RunRelease> releases = new ArrayList<>();
        Instant now = null;
        Set<LeaseKey> ended = new HashSet<>();
        for (Completion completion : batch) {
            if (completion.recorded()) {
                ended.add(completion.run().row().leaseKey());
                continue;
            }
            Attempt attempt = attempt(completion);
            AfterAttempt after = after(completion, attempt);
            LeaseKey lease = completion.run().row().leaseKey();
            if (after instanceof AfterAttempt.Ends end) {
                ends.add(new RunEnd(
                        lease, end.outcome(), end.reason(), attempt, completion.result(), completion.output()));
            } else if (after instanceof AfterAttempt.TriesAgain again) {
                now = now == null ? tx.now() : now;
                releases.add(new RunRelease(
                        lease,
                        again.state(),
                        now.plus(again.pause()),
                        AfterAttempt.with(completion.run().row().attempts(), attempt),
                        completion.output()));
            }
        }
        ended.addAll(ends.isEmpty() ? Set.of() : tx.end(ends));
        Set<LeaseKey> released = releases.isEmpty() ? Set.of() : tx.release(releases);
        return new Report(ended, released, unclear ? onRecord(tx, batch, ended, released) : Set.of());
    }

    private static Set<LeaseKey> onRecord(
            Transaction tx, List<Completion> batch, Set<LeaseKey> ended, Set<LeaseKey> released) {
        Set<LeaseKey> accepted = new HashSet<>(ended);
        accepted.addAll(released);
        List<LeaseKey> refused = batch.stream()
                .map(completion -> completion.run().row().leaseKey())
                .filter(lease -> !accepted.contains(lease))
                .toList();
        return refused.isEmpty() ? Set.of() : tx.recorded(refused);
    }

    private static Attempt attempt(Completion completion) {
        Attempt leased = completion.run().attempt();
        Attempt started = Attempt.begun(
                leased.number(),
                leased.instance(),
                leased.session(),
                leased.fence(),
                completion.run().at(completion.startedNanos()));
        return started.ended(completion.run().at(completion.endedNanos()), completion.end(), completion.error());
    }

    private static AfterAttempt after(Completion completion, Attempt attempt) {
        return AfterAttempt.decide(
                completion.run().job(),
                completion.run().row().attempts(),
                attempt,
                completion.failure(),
                completion.run().id());
    }

    private void tell(Completion completion, Report report) {
        LeaseKey lease = completion.run().row().leaseKey();
        String took = Durations.about(Duration.ofNanos(completion.endedNanos() - completion.startedNanos()));
        String error = completion.error().map(text -> ": " + firstLine(text)).orElse("");
        AfterAttempt after = after(completion, attempt(completion));
        boolean accepted =
                report.ended.contains(lease) || report.released.contains(lease) || report.onRecord.contains(lease);
        if (!accepted) {
            tell(
                    completion,
                    Event.Kind.REFUSED,
                    "its lease is gone; the attempt that took over counts",
                    event -> event);
        } else if (after instanceof AfterAttempt.Ends end) {
            Event.Kind kind = switch (end.outcome()) {
                case SUCCEEDED -> Event.Kind.SUCCEEDED;
                case CANCELLED -> Event.Kind.CANCELLED;
                case SKIPPED -> Event.Kind.SKIPPED;
                default -> Event.Kind.FAILED;
            };
            String how = kind.name().equals(end.outcome().name()) ? "" : end.outcome() + " ";
            String why = end.reason().map(reason -> ", " + reason).orElse("");
            tell(completion, kind, how + "after " + took + why + error, event -> {
                Event ended = event.withOutcome(end.outcome());
                return end.reason().map(ended::withReason).orElse(ended);
            });
        } else if (after instanceof AfterAttempt.TriesAgain again) {
            Event.Kind kind =
                    completion.end() == AttemptEnd.HANDED_BACK ? Event.Kind.HANDED_BACK : Event.Kind.BACKING_OFF;
            String next = again.pause().isZero() ? "" : ", next attempt in " + Durations.format(again.pause());
            tell(
                    completion,
                    kind,
                    "attempt " + completion.run().row().attempt() + " " + completion.end() + " after " + took + error
                            + next,
                    event -> event);
        }
    }

    private void tell(Completion completion, Event.Kind kind, String text, UnaryOperator<Event> facts) {
        RunRow row = completion.run().row();
        Duration took = Duration.ofNanos(completion.endedNanos() - completion.startedNanos());
        instance.tell(
                kind,
                completion.run().job().name(),
                completion.run().id(),
                text,
                event -> facts.apply(event.withAttempt(row.attempt())
                        .withPlanned(row.owed().planned())
                        .withTook(took)));
    }

    private static String firstLine(String text) {
        int end = text.indexOf('\n');
        return end < 0 ? text : text.substring(0, end);
    }
}
