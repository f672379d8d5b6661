package dev.brume.internal.run;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.Event;
import dev.brume.Outcome;
import dev.brume.StoreException;
import dev.brume.history.LeaseKey;
import dev.brume.internal.decide.AfterAttempt;
import dev.brume.internal.duty.Duty;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.duty.Turns;
import dev.brume.schedule.Durations;
import dev.brume.spi.Completion;
import dev.brume.spi.LeasedRun;
import dev.brume.spi.Transaction;
import java.time.Duration;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;

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
        List<Reported> reported;
        try {
            reported = instance.transact(tx -> report(tx, batch));
        } catch (RuntimeException | StackOverflowError e) {
            if (!SetAside.isOfOne(e)) {
                throw e;
            }
            oneByOne();
            return;
        }
        batch = List.of();
        done(reported);
    }

    private void done(List<Reported> reported) {
        List<Long> ended = reported.stream()
                .filter(Reported::unsettled)
                .map(each -> each.completion().run().id())
                .toList();
        if (!ended.isEmpty()) {
            instance.ended(ended);
            whenEnded.run();
        }
        reported.forEach(each -> instance.letGo(each.completion().run()));
        instance.watch()
                .mayHaveEnded(reported.stream()
                        .map(each -> each.completion().run().id())
                        .toList());
        reported.forEach(this::tell);
        instance.callAtEnds();
    }

    /** One end that cannot be written holds up no other: it is written without what the work left behind. */
    private void oneByOne() {
        while (!batch.isEmpty()) {
            Completion first = batch.get(0);
            List<Reported> reported = reportAlone(first);
            batch = batch.subList(1, batch.size());
            done(reported);
        }
    }

    private List<Reported> reportAlone(Completion completion) {
        try {
            return instance.transact(tx -> report(tx, List.of(completion)));
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
    private List<Reported> reportBare(Completion completion, Throwable why) {
        Attempt last = completion.last();
        Optional<String> left = Optional.of("what it left behind could not be written");
        Completion bare = Completion.of(
                completion.run(),
                last.ended(last.endedAt().orElseThrow(), last.end().orElseThrow(), left));
        try {
            return instance.transact(tx -> report(tx, List.of(bare)));
        } catch (RuntimeException | StackOverflowError e) {
            if (!SetAside.isOfOne(e)) {
                throw e;
            }
            e.addSuppressed(why);
            instance.tellProblem("the end of run " + completion.run().id() + " cannot be written; it is given back", e);
            instance.letGo(completion.run());
            return List.of();
        }
    }

    /** {@return whether ends are still to be reported} */
    public boolean idle() {
        return batch.isEmpty() && !instance.hasCompletions();
    }

    /**
     * An attempt's end, and what was decided about it.
     *
     * @param accepted whether the run was still leased for that attempt
     * @param unsettled whether the end may still have to be settled
     */
    private record Reported(Completion completion, AfterAttempt after, boolean accepted, boolean unsettled) {
        Duration took() {
            Attempt last = completion.last();
            return Duration.between(last.startedAt(), last.endedAt().orElseThrow());
        }
    }

    private List<Reported> report(Transaction tx, List<Completion> batch) {
        Aftermath aftermath = new Aftermath(tx, instance::isNotable);
        Map<LeaseKey, AfterAttempt> decided = new HashMap<>();
        Set<LeaseKey> accepted = new HashSet<>();
        for (Completion completion : batch) {
            LeasedRun run = completion.run();
            AfterAttempt after = AfterAttempt.decide(
                    run.job(), run.row().attempts(), completion.last(), completion.failure(), run.id());
            decided.put(run.row().leaseKey(), after);
            if (completion.recorded()) {
                accepted.add(run.row().leaseKey());
            } else {
                aftermath.add(run.row(), run.job(), completion.last(), after, completion.result(), completion.output());
            }
        }
        Set<LeaseKey> written = aftermath.write();
        accepted.addAll(written);
        if (unclear) {
            accepted.addAll(onRecord(tx, decided.keySet(), accepted));
        }
        return batch.stream()
                .map(completion -> {
                    LeaseKey lease = completion.run().row().leaseKey();
                    AfterAttempt after = Objects.requireNonNull(decided.get(lease));
                    boolean isAccepted = accepted.contains(lease);
                    // What was recorded before this transaction says nothing of itself.
                    boolean mayBeUnsettled =
                            !written.contains(lease) || aftermath.unsettled().contains(lease.run());
                    boolean ends = isAccepted && after instanceof AfterAttempt.Ends;
                    return new Reported(completion, after, isAccepted, ends && mayBeUnsettled);
                })
                .toList();
    }

    private static Set<LeaseKey> onRecord(Transaction tx, Set<LeaseKey> all, Set<LeaseKey> accepted) {
        List<LeaseKey> refused =
                all.stream().filter(lease -> !accepted.contains(lease)).toList();
        return refused.isEmpty() ? Set.of() : tx.recorded(refused);
    }

    private void tell(Reported reported) {
        Completion completion = reported.completion();
        String took = Durations.about(reported.took());
        String error =
                completion.last().error().map(text -> ": " + firstLine(text)).orElse("");
        if (!reported.accepted()) {
            tell(reported, Event.Kind.REFUSED, "its lease is gone; the attempt that took over counts");
        } else if (reported.after() instanceof AfterAttempt.Ends end) {
            if (end.outcome() == Outcome.SUCCEEDED
                    && instance.isNotable(completion.run().job())) {
                instance.wasNotable();
            }
            Event.Kind kind = switch (end.outcome()) {
                case SUCCEEDED -> Event.Kind.SUCCEEDED;
                case CANCELLED -> Event.Kind.CANCELLED;
                case SKIPPED -> Event.Kind.SKIPPED;
                default -> Event.Kind.FAILED;
            };
            String how = kind.name().equals(end.outcome().name()) ? "" : end.outcome() + " ";
            String why = end.reason().map(reason -> ", " + reason).orElse("");
            tell(reported, kind, how + "after " + took + why + error);
        } else if (reported.after() instanceof AfterAttempt.TriesAgain again) {
            AttemptEnd end = completion.last().end().orElseThrow();
            Event.Kind kind = end == AttemptEnd.HANDED_BACK ? Event.Kind.HANDED_BACK : Event.Kind.BACKING_OFF;
            String next = again.pause().isZero() ? "" : ", next attempt in " + Durations.format(again.pause());
            String attempt = "attempt " + completion.run().row().attempt();
            tell(reported, kind, attempt + " " + end + " after " + took + error + next);
        }
    }

    private void tell(Reported reported, Event.Kind kind, String text) {
        Completion completion = reported.completion();
        LeasedRun run = completion.run();
        instance.tell(
                kind,
                run.job().name(),
                run.id(),
                text,
                event -> reported.accepted()
                        ? Aftermath.facts(event.withTook(reported.took()), run.row(), reported.after())
                        : Aftermath.facts(event.withTook(reported.took()), run.row()));
    }

    private static String firstLine(String text) {
        int end = text.indexOf('\n');
        return end < 0 ? text : text.substring(0, end);
    }
}
