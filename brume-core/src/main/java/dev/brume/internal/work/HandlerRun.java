package dev.brume.internal.work;

import dev.brume.AttemptEnd;
import dev.brume.GuardedWork;
import dev.brume.JobName;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.OwnTransaction;
import dev.brume.Run;
import dev.brume.StopReason;
import dev.brume.internal.run.RunContext;
import dev.brume.spi.LeasedRun;
import dev.brume.spi.RunEnd;
import dev.brume.spi.TimeSource;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** An attempt as its handler sees it. */
final class HandlerRun implements Run {
    private final LeasedRun run;
    private final ActiveAttempt attempt;
    private final OutputBuffer output;
    private final RunContext context;
    private final TimeSource time;
    private final long startedNanos;
    private volatile @Nullable String result;
    private volatile Optional<String> trace = Optional.empty();
    private volatile boolean committed;

    HandlerRun(ActiveAttempt attempt, OutputBuffer output, RunContext context, TimeSource time, long startedNanos) {
        this.run = attempt.run();
        this.attempt = attempt;
        this.output = output;
        this.context = context;
        this.time = time;
        this.startedNanos = startedNanos;
    }

    @Override
    public long id() {
        return run.id();
    }

    @Override
    public JobName job() {
        return run.job().name();
    }

    @Override
    public Instant planned() {
        return run.row().owed().planned();
    }

    @Override
    public LocalDateTime plannedLocal() {
        return run.row().owed().nominal();
    }

    @Override
    public List<String> traces() {
        Stream<String> causes = run.row().traces().stream().flatMap(all -> Stream.of(all.split(" ")));
        Stream<String> earlier = run.row().attempts().stream().flatMap(each -> each.trace().stream());
        return Stream.concat(causes, earlier).toList();
    }

    /** Notes the trace context of this attempt. */
    void traced(Optional<String> context) {
        trace = context;
    }

    /** {@return the trace context of this attempt} */
    Optional<String> trace() {
        return trace;
    }

    @Override
    public Instant startedAt() {
        return run.at(startedNanos);
    }

    @Override
    public Origin origin() {
        return run.row().owed().origin();
    }

    @Override
    public Optional<Previous> previous() {
        return context.lastEnd(job()).map(end -> new Previous(end.run(), end.outcome(), end.at()));
    }

    @Override
    public Optional<Parent> parent() {
        return context.parent(run)
                .map(view -> new Parent(view.id(), view.job(), view.outcome().orElseThrow(), view.result()));
    }

    @Override
    public void progress(int percent, String message) {
        if (percent < 0 || percent > 100) {
            throw new IllegalArgumentException("progress: " + percent + " is outside 0 to 100");
        }
        String clean = message.replace('\0', '\uFFFD').replace('\n', ' ');
        String shown = attempt.mask().apply(clean);
        context.progress(run, percent, shown.length() > LONGEST_MESSAGE ? shown.substring(0, LONGEST_MESSAGE) : shown);
    }

    @Override
    public Optional<Duration> timeLeft() {
        return run.job().timeLimit().map(limit -> {
            Duration left = limit.minusNanos(time.nanos() - startedNanos);
            return left.isNegative() ? Duration.ZERO : left;
        });
    }

    @Override
    public int attempt() {
        return run.row().attempt();
    }

    @Override
    public long fence() {
        return run.row().lease().orElseThrow().fence();
    }

    @Override
    public Optional<String> payload() {
        return run.row().payload();
    }

    @Override
    public void print(String line) {
        output.println(line);
    }

    @Override
    public void result(String text) {
        result = text;
    }

    @Override
    public void commit(GuardedWork work) throws Exception {
        checkNotCommitted();
        context.commit(run, work, this::succeeded);
        committed = true;
    }

    @Override
    public void commit(OwnTransaction transaction, GuardedWork work) throws Exception {
        checkNotCommitted();
        context.commit(run, transaction, work, this::succeeded);
        committed = true;
    }

    private void checkNotCommitted() {
        if (committed) {
            throw new IllegalStateException("run " + id() + " has been committed already");
        }
    }

    private RunEnd succeeded() {
        return new RunEnd(
                run.row().leaseKey(),
                run.row().owed().job(),
                Outcome.SUCCEEDED,
                Optional.empty(),
                run.attempt(startedNanos, time.nanos(), AttemptEnd.SUCCEEDED, Optional.empty())
                        .withTrace(trace),
                result().map(text -> AttemptRunner.recordedResult(text, attempt.mask())),
                output.output(attempt.mask()),
                /* settles= */ true,
                run.row().owed().planned(),
                context.isNotable(run.job()));
    }

    /** {@return whether the work has ended the run by itself} */
    boolean committed() {
        return committed;
    }

    Optional<String> result() {
        return Optional.ofNullable(result);
    }

    @Override
    public Optional<StopReason> stopAsked() {
        return attempt.stopAsked();
    }
}
