package dev.brume.internal.duty;

import dev.brume.AttemptEnd;
import dev.brume.Run;
import dev.brume.spi.Traces;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;
import java.util.function.Supplier;

/** Traces as far as they can be had: what throws costs a trace, and nothing else. Safe for use by many threads. */
final class SafeTraces implements Traces {
    private final Traces traces;
    private final Consumer<Throwable> trouble;

    /**
     * Creates it.
     *
     * @param trouble hears of what is thrown, maybe at every run, so it is to be thrifty
     */
    SafeTraces(Traces traces, Consumer<Throwable> trouble) {
        this.traces = traces;
        this.trouble = trouble;
    }

    private <T> T unless(T otherwise, Supplier<T> question) {
        try {
            return question.get();
        } catch (Exception | LinkageError | AssertionError | StackOverflowError e) {
            trouble.accept(e);
            return otherwise;
        }
    }

    private Optional<String> kept(Supplier<Optional<String>> context) {
        return unless(Optional.empty(), () -> context.get().filter(text -> text.length() == LENGTH));
    }

    @Override
    public Optional<String> here() {
        return kept(traces::here);
    }

    @Override
    public Map<String, String> passedOn() {
        return unless(Map.of(), () -> Map.copyOf(traces.passedOn()));
    }

    @Override
    public Planning planning() {
        Planning planning = unless(Planning.NONE, traces::planning);
        return new Planning() {
            @Override
            public Optional<String> context() {
                return kept(() -> planning.context());
            }

            @Override
            public void committed(int runs) {
                unless(runs, () -> {
                    planning.committed(runs);
                    return runs;
                });
            }
        };
    }

    @Override
    public Attempted attempt(Run run) {
        Attempted attempted = unless(Attempted.NONE, () -> traces.attempt(run));
        return (AttemptEnd end, Optional<String> error) -> unless(end, () -> {
            attempted.ended(end, error);
            return end;
        });
    }
}
