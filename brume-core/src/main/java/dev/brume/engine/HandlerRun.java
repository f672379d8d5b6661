package dev.brume.engine;

import dev.brume.JobKey;
import dev.brume.Run;
import dev.brume.StopReason;
import dev.brume.port.LeasedRun;
import java.time.Instant;
import java.time.LocalDateTime;
import java.util.Optional;

/** What a handler sees of its attempt. */
final class HandlerRun implements Run {
    private final LeasedRun run;
    private final ActiveAttempt attempt;
    private final OutputBuffer output;
    private volatile String result;

    HandlerRun(ActiveAttempt attempt, OutputBuffer output) {
        this.run = attempt.run();
        this.attempt = attempt;
        this.output = output;
    }

    @Override
    public long id() {
        return run.id();
    }

    @Override
    public JobKey job() {
        return run.job().key();
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

    Optional<String> result() {
        return Optional.ofNullable(result);
    }

    @Override
    public Optional<StopReason> stopAsked() {
        return attempt.stopAsked();
    }
}
