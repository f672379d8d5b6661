package dev.brume.internal.duty;

import dev.brume.AttemptEnd;
import dev.brume.Run;
import dev.brume.spi.Traces;
import java.util.Map;
import java.util.Optional;
import java.util.function.Supplier;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Traces as far as they can be had: what throws costs a trace, and nothing else. Safe for use by many threads. */
final class SafeTraces implements Traces {
    private static final Logger LOG = LoggerFactory.getLogger(SafeTraces.class);

    private final Traces traces;

    SafeTraces(Traces traces) {
        this.traces = traces;
    }

    private static <T> T unless(T otherwise, Supplier<T> question) {
        try {
            return question.get();
        } catch (Exception | LinkageError | AssertionError | StackOverflowError e) {
            LOG.warn("something could not be traced", e);
            return otherwise;
        }
    }

    private static Optional<String> kept(Supplier<Optional<String>> context) {
        return unless(Optional.empty(), context).filter(text -> text.length() == LENGTH);
    }

    @Override
    public Optional<String> here() {
        return kept(traces::here);
    }

    @Override
    public Map<String, String> passedOn() {
        return unless(Map.of(), traces::passedOn);
    }

    @Override
    public Planning planning() {
        Planning planning = unless(Planning.NONE, traces::planning);
        return new Planning() {
            @Override
            public Optional<String> context() {
                return kept(planning::context);
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
