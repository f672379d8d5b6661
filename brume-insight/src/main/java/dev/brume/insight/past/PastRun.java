package dev.brume.insight.past;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.Origin;
import dev.brume.RunState;
import dev.brume.history.RunView;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Optional;
import java.util.Set;

/** Works out how a run stood at an instant, from what is known of it now. Stateless. */
final class PastRun {
    /** Runs owed to these are made when they are planned; others are made for what was owed earlier. */
    private static final Set<Origin> MADE_WHEN_PLANNED =
            Set.of(Origin.SCHEDULE, Origin.ONE_OFF, Origin.BY_HAND, Origin.FOLLOW_UP);

    private PastRun() {}

    /**
     * {@return the run as it was; empty if it was not there yet}
     *
     * @param waiting the runs that waited for a place then
     */
    static Optional<RunView> at(RunView run, Instant at, Set<Long> waiting) {
        if (run.recordedAt().filter(end -> !end.isAfter(at)).isPresent()) {
            return Optional.of(run);
        }
        List<Attempt> begun = run.attempts().stream()
                .filter(attempt -> !attempt.startedAt().isAfter(at))
                .toList();
        if (begun.isEmpty()) {
            return wasThere(run, at, waiting.contains(run.id()))
                    ? Optional.of(live(
                            run,
                            waiting.contains(run.id()) ? RunState.WAITING : RunState.PLANNED,
                            run.readyAt(),
                            begun))
                    : Optional.empty();
        }
        Attempt last = begun.get(begun.size() - 1);
        boolean isLast = begun.size() == run.attempts().size() && endedTheRun(last, run);
        if (isLast || last.endedAt().filter(end -> !end.isAfter(at)).isEmpty()) {
            List<Attempt> going = new ArrayList<>(begun.subList(0, begun.size() - 1));
            going.add(Attempt.begun(last.number(), last.instance(), last.session(), last.fence(), last.startedAt())
                    .withTrace(last.trace()));
            return Optional.of(live(run, RunState.RUNNING, earlier(run.readyAt(), last.startedAt()), going));
        }
        Instant next = begun.size() < run.attempts().size()
                ? run.attempts().get(begun.size()).startedAt()
                : run.readyAt();
        return Optional.of(live(run, between(run, last, waiting), earlier(run.readyAt(), next), begun));
    }

    /** The end of such an attempt holds from when it was put on record, as that of the run; others ended before their runs did. */
    private static boolean endedTheRun(Attempt last, RunView run) {
        return last.end()
                .filter(end -> end == AttemptEnd.SUPERSEDED
                        || end == AttemptEnd.TURNED_DOWN
                        || run.outcome()
                                .filter(outcome -> outcome.name().equals(end.name()))
                                .isPresent())
                .isPresent();
    }

    private static RunState between(RunView run, Attempt last, Set<Long> waiting) {
        if (waiting.contains(run.id())) {
            return RunState.WAITING;
        }
        boolean failed = last.end()
                .filter(end -> end == AttemptEnd.FAILED || end == AttemptEnd.TIMED_OUT)
                .isPresent();
        return failed ? RunState.BACKING_OFF : RunState.PLANNED;
    }

    private static boolean wasThere(RunView run, Instant at, boolean waited) {
        if (waited || !run.readyAt().isAfter(at)) {
            return true;
        }
        // What was tried before, or handed back, was ready earlier than it says now.
        return MADE_WHEN_PLANNED.contains(run.owed().origin())
                && !run.owed().planned().isAfter(at);
    }

    private static Instant earlier(Instant one, Instant other) {
        return one.isBefore(other) ? one : other;
    }

    private static RunView live(RunView run, RunState state, Instant readyAt, List<Attempt> attempts) {
        RunView plain = new RunView(
                run.id(),
                run.job(),
                run.owed(),
                run.version(),
                run.lane(),
                readyAt,
                Optional.of(state),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                attempts,
                run.payload(),
                Optional.empty(),
                Optional.empty(),
                new HashMap<>(run.outputs()));
        // What an attempt printed is on record from its end.
        plain.outputs()
                .keySet()
                .retainAll(attempts.stream()
                        .filter(attempt -> attempt.end().isPresent())
                        .map(Attempt::number)
                        .toList());
        return plain;
    }
}
