package dev.brume.insight.why;

import dev.brume.Attempt;
import dev.brume.IfBusy;
import dev.brume.Job;
import dev.brume.RunState;
import dev.brume.history.Pause;
import dev.brume.history.Progress;
import dev.brume.history.RunView;
import dev.brume.history.SessionRow;
import dev.brume.schedule.Durations;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;

/**
 * Says why a job runs, waits, or does nothing at this moment. Stateless.
 *
 * @since 0.1.0
 */
public final class WhyNow {
    private static final Duration PROMPT = Duration.ofSeconds(2);
    private static final int FAR_LONGER = 10;

    private final Situation situation;
    private final Job job;

    private WhyNow(Situation situation) {
        this.situation = situation;
        this.job = situation.job();
    }

    /** Answers. */
    public static Answer of(Situation situation) {
        WhyNow why = new WhyNow(situation);
        return why.answer().on(why.facts());
    }

    private Answer answer() {
        Comparator<RunView> oldest =
                Comparator.comparing((RunView run) -> run.owed().planned()).thenComparing(RunView::id);
        Optional<RunView> running = situation.live().stream()
                .filter(run -> run.state().get() == RunState.RUNNING)
                .min(oldest);
        if (running.isPresent()) {
            return about(running.get(), running(running.get()));
        }
        Optional<RunView> waiting = situation.live().stream().min(oldest);
        if (waiting.isPresent()) {
            return about(waiting.get(), waiting(waiting.get()));
        }
        return idle();
    }

    private static Answer about(RunView run, String sentence) {
        Answer.Code code = Answer.Code.valueOf(run.state().orElseThrow().name());
        return Answer.of(code, Optional.of(run.owed().planned()), sentence).about(List.of(run.id()));
    }

    private String running(RunView run) {
        Attempt attempt = run.lastAttempt().orElseThrow();
        Duration since = Duration.between(attempt.startedAt(), situation.now());
        String progress = run.progress()
                .map(Progress::toString)
                .map(text -> ", at " + text)
                .orElse("");
        String plain = "It is running: run " + run.id() + " on " + attempt.instance() + " for " + Durations.about(since)
                + progress;
        List<RunView> waiting = situation.live().stream()
                .filter(other -> other.state().get() != RunState.RUNNING)
                .toList();
        String queue = waiting.isEmpty() ? "" : "; " + waiting.size() + " more wait behind it";
        return plain + queue + longer(run, since) + ".";
    }

    private String longer(RunView run, Duration since) {
        Optional<Duration> usual = usual();
        boolean hangs = usual.filter(
                        took -> since.compareTo(took.multipliedBy(FAR_LONGER)) > 0 && since.compareTo(PROMPT) > 0)
                .isPresent();
        return hangs
                ? "; that is far longer than the usual " + Durations.about(usual.get())
                        + (job.timeLimit().isEmpty() ? ", and it has no timeLimit that would end it" : "")
                        + " (brume cancel " + run.id() + ")"
                : "";
    }

    /** The median of what the last runs took. */
    private Optional<Duration> usual() {
        List<Duration> took = situation.ended().stream()
                .flatMap(run -> run.lastAttempt().stream())
                .flatMap(attempt -> attempt.endedAt().stream().map(end -> Duration.between(attempt.startedAt(), end)))
                .sorted()
                .toList();
        return took.isEmpty() ? Optional.empty() : Optional.of(took.get(took.size() / 2));
    }

    private String waiting(RunView run) {
        String which =
                "Run " + run.id() + ", planned " + situation.time(run.owed().planned()) + ", ";
        return switch (run.state().orElseThrow()) {
            case WAITING -> which + held();
            case BACKING_OFF ->
                which + "failed at attempt " + run.attempts().size() + " ("
                        + run.lastAttempt()
                                .flatMap(Attempt::error)
                                .map(WhyNow::firstLine)
                                .orElse("no error") + "); the next begins at "
                        + situation.time(run.readyAt()) + nobody("; ") + ".";
            default ->
                run.readyAt().isAfter(situation.now())
                        ? which + "is to begin at " + situation.time(run.readyAt()) + "."
                        : which + "waits for a worker: " + want(run) + ".";
        };
    }

    private String held() {
        String gates = situation.fullGates();
        if (!gates.isEmpty()) {
            return "waits for " + gates + ".";
        }
        return situation.pause().isPresent()
                ? "waits for the end of a pause: " + paused() + "."
                : "waits for an earlier run whose end is not settled yet.";
    }

    /** Why nobody has taken a run that is ready. */
    private String want(RunView run) {
        String nobody = nobody("");
        return nobody.isEmpty()
                ? "all of " + Situation.names(WhoCould.able(job, situation.aliveAt(situation.now())))
                        + " are full, for " + Durations.about(Duration.between(run.readyAt(), situation.now()))
                : nobody;
    }

    /** Why there is nobody who could run it, if there is nobody. */
    private String nobody(String before) {
        List<SessionRow> alive = situation.aliveAt(situation.now());
        return alive.isEmpty()
                ? before + "no instance is alive"
                : WhoCould.run(job, alive).map(text -> before + text).orElse("");
    }

    private String paused() {
        return situation.paused().orElse("it is paused");
    }

    private Answer idle() {
        Optional<Instant> next = situation.view().row().nextOccurrence();
        if (!job.enabled()) {
            return Answer.of(
                    Answer.Code.DISABLED,
                    Optional.empty(),
                    "It is disabled: enabled is false in version "
                            + situation.view().row().version() + ", so its schedules owe nothing.");
        }
        if (situation.pause().isPresent()) {
            return Answer.of(
                    Answer.Code.PAUSED, situation.pause().flatMap(Pause::until), "It is paused: " + paused() + ".");
        }
        Optional<Instant> turn = situation.view().row().pause().turnsAt();
        if (next.isEmpty() && turn.isPresent()) {
            return Answer.of(
                    Answer.Code.PAUSED,
                    turn,
                    "A pause begins at " + situation.time(turn.get()) + ", before it is due (brume pauses says why).");
        }
        if (next.isEmpty()) {
            return Answer.of(Answer.Code.NONE_TO_COME, Optional.empty(), nothingToCome());
        }
        Duration until = Duration.between(situation.now(), next.get());
        if (until.isNegative()) {
            return Answer.of(
                    Answer.Code.DUE,
                    next,
                    "It has been due since " + situation.time(next.get()) + ", " + Durations.about(until.abs())
                            + " ago: " + notPlanned(until) + ".");
        }
        return Answer.of(
                Answer.Code.NOTHING_DUE,
                next,
                "Nothing is due: it is owed next at " + situation.time(next.get()) + ", in " + Durations.about(until)
                        + nobody("; but ") + ".");
    }

    private String notPlanned(Duration until) {
        if (situation.aliveAt(situation.now()).isEmpty()) {
            return "no instance is alive to plan it";
        }
        return until.abs().compareTo(PROMPT) < 0
                ? "it is about to be planned"
                : "instances are alive, and none has planned it; its row may be locked by another"
                        + " transaction, or the database's clock in doubt (they report it as a PROBLEM)";
    }

    private String nothingToCome() {
        if (!job.schedules().isEmpty()) {
            return "Its schedules owe nothing any more: what they name is past, or used up.";
        }
        return situation.followed().isEmpty()
                ? "It has no schedule: it runs when someone orders it."
                : "It has no schedule: it runs after " + String.join(", ", situation.followed()) + ".";
    }

    private List<Answer.Fact> facts() {
        List<Answer.Fact> facts = new ArrayList<>();
        facts.add(new Answer.Fact(
                "version",
                situation.view().row().version() + ", in force since "
                        + situation.time(situation.view().definedAt()) + ", from "
                        + situation.view().row().source(),
                situation.view().definedAt()));
        facts.add(new Answer.Fact("schedule", job.scheduleInWords()));
        facts.add(new Answer.Fact("policies", policies(job)));
        facts.add(new Answer.Fact(
                "lane",
                job.lane() + ", priority " + job.priority() + "; alive: "
                        + Situation.names(situation.servingAt(situation.now()))));
        facts.add(new Answer.Fact(
                "unfinished",
                situation.view().row().used() + " of " + situation.view().row().cap() + " places taken, "
                        + situation.view().row().waiting() + " waiting"));
        situation.ended().stream()
                .limit(3)
                .forEach(run -> facts.add(new Answer.Fact(
                        "ended", ended(run), run.lastAttempt().flatMap(Attempt::endedAt), Optional.of(run.id()))));
        return facts;
    }

    private String ended(RunView run) {
        String why = run.reason().map(reason -> " " + reason).orElse("");
        String error = run.lastAttempt()
                .flatMap(Attempt::error)
                .map(text -> ": " + firstLine(text))
                .orElse("");
        return "run " + run.id() + ", planned " + situation.time(run.owed().planned()) + ", "
                + run.outcome().orElseThrow() + why + error;
    }

    static String policies(Job job) {
        boolean bounded =
                job.ifBusy().choice() == IfBusy.Choice.ALONGSIDE || job.ifBusy().choice() == IfBusy.Choice.WAIT;
        int attempts = job.ifFailed().attempts();
        return "ifBusy " + Situation.word(job.ifBusy().choice())
                + (bounded ? " " + job.ifBusy().bound() : "") + ", ifMissed "
                + Situation.word(job.ifMissed().choice()) + " beyond "
                + Durations.about(job.ifMissed().tolerance())
                + ", ifFailed " + attempts + (attempts == 1 ? " attempt" : " attempts") + ", ifLost "
                + Situation.word(job.ifLost());
    }

    public static String firstLine(String text) {
        return text.lines().findFirst().orElse("");
    }
}
