package dev.brume.insight.why;

import dev.brume.GateKey;
import dev.brume.Job;
import dev.brume.history.Gate;
import dev.brume.history.JobView;
import dev.brume.history.Pause;
import dev.brume.history.RunView;
import dev.brume.history.SessionRow;
import dev.brume.history.SessionView;
import java.time.Instant;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.UUID;
import java.util.function.Function;
import java.util.stream.Collectors;

/**
 * The record around a job.
 *
 * @param now the database's clock
 * @param view the job
 * @param sessions those that live, and those that ended lately
 * @param runs of the job, live ones and the last that ended, newest planned first
 * @param pauses in force
 * @param gates that the job shares
 * @param followed the jobs whose runs it follows, by name
 * @param times writes an instant for the reader
 * @since 0.1.0
 */
public record Situation(
        Instant now,
        JobView view,
        List<SessionView> sessions,
        List<RunView> runs,
        List<Pause> pauses,
        List<Gate> gates,
        List<String> followed,
        Function<Instant, String> times) {

    Job job() {
        return view.job();
    }

    List<RunView> live() {
        return runs.stream().filter(run -> run.state().isPresent()).toList();
    }

    List<RunView> ended() {
        return runs.stream().filter(run -> run.outcome().isPresent()).toList();
    }

    /** {@return the sessions that lived at an instant and serve the job's lane} */
    List<SessionRow> servingAt(Instant at) {
        return aliveAt(at).stream()
                .filter(session -> session.laneNames().contains(job().lane()))
                .toList();
    }

    /** {@return the sessions that lived at an instant, as far as they are remembered} */
    List<SessionRow> aliveAt(Instant at) {
        return sessions.stream()
                .map(SessionView::row)
                .filter(session -> !session.openedAt().isAfter(at)
                        && session.endedAt().orElse(session.leaseUntil()).isAfter(at))
                .toList();
    }

    Optional<Pause> pause() {
        return pauses.stream()
                .filter(pause -> pause.scope().covers(job().name(), job().tags()))
                .findFirst();
    }

    /** {@return who paused what, when and why; empty if the job is not paused} */
    Optional<String> paused() {
        return pause().map(pause -> pause.who() + " paused " + pause.scope()
                + (pause.until().isEmpty() ? " at " : " from ") + time(pause.since())
                + pause.until().map(end -> " until " + time(end)).orElse("")
                + (pause.because().isEmpty() ? "" : ", because: " + pause.because()));
    }

    /** {@return the session of an id, if it is remembered} */
    Optional<SessionRow> session(UUID id) {
        return sessions.stream()
                .map(SessionView::row)
                .filter(session -> session.id().equals(id))
                .findFirst();
    }

    String time(Instant instant) {
        return times.apply(instant);
    }

    static String names(List<SessionRow> sessions) {
        return sessions.isEmpty()
                ? "none"
                : sessions.stream()
                        .map(session -> session.instance() + " (" + String.join(", ", session.lanes())
                                + (session.labels().isEmpty() ? "" : "; " + String.join(", ", session.labels())) + ")")
                        .collect(Collectors.joining(", "));
    }

    /** A constant as words. */
    static String word(Enum<?> constant) {
        return constant.name().toLowerCase(Locale.ROOT).replace('_', ' ');
    }

    /** The gates of the job that have no place left, in words. */
    private String why(Gate gate) {
        return gate.hasRoom()
                ? gate.rate().orElseThrow() + " have begun"
                        + gate.opensAt()
                                .map(at -> ", the next may at " + time(at))
                                .orElse("")
                : gate.used() + " of " + gate.cap() + " places taken";
    }

    String fullGates() {
        return gates.stream()
                .filter(gate -> job().gates().contains(gate.key()) && (!gate.hasRoom() || !gate.letsBegin(now)))
                .map(gate -> (gate.key().kind() == GateKey.Kind.LIMIT ? "the limit " : "the key ")
                        + gate.key().name() + " (" + why(gate) + ")")
                .collect(Collectors.joining(" and "));
    }
}
