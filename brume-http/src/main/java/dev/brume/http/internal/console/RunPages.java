package dev.brume.http.internal.console;

import com.fasterxml.jackson.jr.ob.JSON;
import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.Outcome;
import dev.brume.Role;
import dev.brume.RunState;
import dev.brume.definitions.JsonText;
import dev.brume.definitions.TimeText;
import dev.brume.history.JobView;
import dev.brume.history.Output;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.http.internal.console.Table.Cell;
import dev.brume.http.internal.console.Table.Line;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Param;
import dev.brume.http.internal.web.Problem;
import dev.brume.http.internal.web.Reply;
import dev.brume.insight.board.Fate;
import dev.brume.insight.why.Question;
import java.io.IOException;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** The list of runs, and a run. */
public final class RunPages {
    private static final int PAGE = 50;
    private static final Param<String> OUTCOME =
            Param.text("outcome", "How they ended, or where they stand.", 20, "FAILED");
    private static final Param<String> JOB =
            Param.text("job", "Of this job: NAMESPACE/NAME.", 201, "harbour/tide-tables");
    private static final Param<String> NAMESPACE = Param.text("namespace", "Of its jobs.", 100, "harbour");
    private static final Param<String> INSTANCE = Param.text("instance", "Carried out by it.", 200, "quay-1");
    private static final Param<String> ERROR = Param.text("error", "Whose error has this in it.", 200, "tide gauge");
    private static final Param<Instant> FROM = Param.instant("from", "Planned then or later.");
    private static final Param<Instant> UNTIL = Param.instant("until", "Planned before then.");
    private static final Param<String> BELOW =
            Param.text("below", "Behind this run of the list: INSTANT,RUN.", 60, "2026-11-23T04:15:00Z,17");
    private static final String[] OUTCOMES = {
        "RUNNING",
        "WAITING",
        "PLANNED",
        "BACKING_OFF",
        "SUCCEEDED",
        "FAILED",
        "TIMED_OUT",
        "CANCELLED",
        "SKIPPED",
        "LOST"
    };

    private final boolean signsOut;

    RunPages(boolean signsOut) {
        this.signsOut = signsOut;
    }

    List<Operation> operations() {
        return List.of(
                Operation.get("/runs", "runsPage", "The runs.")
                        .takes(OUTCOME, JOB, NAMESPACE, INSTANCE, ERROR, FROM, UNTIL, BELOW, Frame.ZONE, Call.AS_OF)
                        .by(this::list),
                Operation.get("/runs/{run}", "runPage", "A run.")
                        .takes(Frame.ZONE, Call.AS_OF)
                        .by(this::run));
    }

    private Reply list(Call call) {
        Frame frame = Frame.of(call, "runs", "Runs", signsOut);
        RunFilter filter = RunFilter.newest(PAGE + 1)
                .within(call.namespaces(call.get(NAMESPACE)
                        .filter(text -> !text.isEmpty())
                        .map(Set::of)
                        .orElse(Set.of())));
        for (String word : call.get(OUTCOME).map(List::of).orElse(List.of())) {
            filter = narrowed(filter, word);
        }
        filter = call.get(JOB).map(Pick::job).map(filter::of).orElse(filter);
        filter = call.get(INSTANCE).map(filter::on).orElse(filter);
        filter = call.get(ERROR).map(filter::withError).orElse(filter);
        filter = call.get(FROM).map(filter::from).orElse(filter);
        filter = call.get(UNTIL).map(filter::until).orElse(filter);
        filter = call.get(BELOW).map(RunPages::below).map(filter::below).orElse(filter);
        List<RunView> runs = call.history().runs(filter);
        List<RunView> shown = runs.subList(0, Math.min(PAGE, runs.size()));
        ListPage page = new ListPage(frame)
                .field("job", "job", call.get(JOB).orElse(""))
                .field("outcome", "outcome or state", call.get(OUTCOME).orElse(""), OUTCOMES)
                .field("instance", "instance", call.get(INSTANCE).orElse(""))
                .field("error", "error has", call.get(ERROR).orElse(""))
                .field("from", "from", call.get(FROM).map(Instant::toString).orElse(""))
                .field("until", "until", call.get(UNTIL).map(Instant::toString).orElse(""))
                .table(table(frame, "Newest planned first", shown, /* withJob= */ true));
        if (runs.size() > PAGE) {
            RunView last = shown.get(PAGE - 1);
            page.link(
                    "Older ones",
                    frame.href("/runs?"
                            + Pick.query(call, "outcome", "job", "namespace", "instance", "error", "from", "until")
                            + "below=" + last.owed().planned() + "," + last.id()));
        }
        return page.reply();
    }

    private static RunFilter narrowed(RunFilter filter, String word) {
        for (Outcome outcome : Outcome.values()) {
            if (outcome.name().equalsIgnoreCase(word)) {
                return filter.withOutcome(outcome);
            }
        }
        for (RunState state : RunState.values()) {
            if (state.name().equalsIgnoreCase(word)) {
                return filter.withState(state);
            }
        }
        throw Problem.ofParameter("outcome", "'" + word + "' is not one of " + String.join(", ", OUTCOMES));
    }

    private static RunFilter.Below below(String text) {
        String[] parts = text.split(",");
        try {
            return new RunFilter.Below(Param.instant(parts[0]), Param.id(parts[parts.length - 1]));
        } catch (IllegalArgumentException e) {
            throw Problem.ofParameter("below", String.valueOf(e.getMessage()));
        }
    }

    static Table table(Frame frame, String caption, List<RunView> runs, boolean withJob) {
        List<Line> lines = new ArrayList<>();
        for (RunView run : runs) {
            Optional<Attempt> first = run.attempts().stream().findFirst();
            Optional<Attempt> last = run.lastAttempt();
            List<Cell> cells = new ArrayList<>();
            cells.add(Cell.link(String.valueOf(run.id()), frame.run(run.id())));
            if (withJob) {
                cells.add(Cell.link(run.job().toString(), frame.job(run.job())));
            }
            cells.add(Cell.time(frame.time(run.owed().planned())));
            cells.add(Cell.mark(Fates.of(run), Fates.word(run)));
            cells.add(Cell.number(first.map(attempt ->
                            Frame.size(nonNegative(Duration.between(run.owed().planned(), attempt.startedAt()))))
                    .orElse("")));
            cells.add(Cell.number(last.flatMap(attempt -> attempt.endedAt()
                            .map(end -> Frame.size(nonNegative(Duration.between(attempt.startedAt(), end)))))
                    .orElse("")));
            cells.add(Cell.of(last.map(Attempt::instance).orElse("")));
            cells.add(Cell.of(Fates.word(run.owed().origin().name())));
            lines.add(new Line(cells, Fates.of(run) == Fate.FAILED));
        }
        String[] heads = withJob
                ? new String[] {"Run", "Job", "Planned", "Became", "Began after", "Took", "On", "Owed to"}
                : new String[] {"Run", "Planned", "Became", "Began after", "Took", "On", "Owed to"};
        return Table.of(caption, lines, "there are none like that.", heads);
    }

    private static Duration nonNegative(Duration duration) {
        return duration.isNegative() ? Duration.ZERO : duration;
    }

    /** A try of a run on the line of time of all of them. */
    public record Try(
            Attempt attempt,
            String x,
            String width,
            String began,
            String took,
            String end,
            boolean takenOver,
            Optional<Output> output) {}

    private Reply run(Call call) {
        long id = call.number("run");
        RunView run =
                call.history().run(id).orElseThrow(() -> new Problem(Problem.Kind.NOT_THERE, "there is no run " + id));
        if (!call.caller().may(Role.VIEWER, run.job().namespace())) {
            throw new Problem(Problem.Kind.NOT_THERE, "there is no run " + id);
        }
        Frame frame = Frame.of(call, "runs", "Run " + id, signsOut);
        Map<String, Object> params = new HashMap<>();
        params.put("frame", frame);
        params.put("run", run);
        params.put("why", why(call, frame, run));
        params.put("facts", facts(frame, run));
        params.put("tries", tries(frame, run));
        params.put("payload", run.payload().map(RunPages::pretty).orElse(""));
        params.put("result", run.result().map(RunPages::pretty).orElse(""));
        params.put("orders", orders(frame, run));
        return Html.page("run", params);
    }

    private static String why(Call call, Frame frame, RunView run) {
        if (frame.asOf().isPresent()) {
            return "";
        }
        Optional<JobView> job = call.history()
                .job(run.job())
                .filter(view -> view.row().id() == run.owed().job());
        boolean owed = run.owed().planned().isBefore(frame.now());
        if (job.isEmpty() || !owed) {
            return "";
        }
        Question question = new Question(
                call.history(), job.get(), frame.now(), at -> TimeText.near(at, frame.now(), frame.zone()));
        return run.outcome().isPresent()
                ? question.about(run.owed().planned()).sentence()
                : question.aboutNow().sentence();
    }

    private static Map<String, String> facts(Frame frame, RunView run) {
        Map<String, String> facts = new LinkedHashMap<>();
        facts.put(
                "planned",
                frame.time(run.owed().planned()) + " (" + run.owed().nominal() + " in "
                        + run.owed().zone() + ")");
        facts.put(
                "owed to",
                Fates.word(run.owed().origin().name())
                        + run.owed()
                                .orderedBy()
                                .map(who -> ", ordered by " + who)
                                .orElse("")
                        + run.owed()
                                .parent()
                                .map(parent -> ", after run " + parent)
                                .orElse(""));
        run.owed().note().ifPresent(note -> facts.put("clock change", note));
        facts.put("definition", "version " + run.version());
        facts.put("lane", run.lane());
        run.progress().ifPresent(progress -> facts.put("progress", progress.toString()));
        run.lastAttempt().flatMap(Attempt::trace).ifPresent(trace -> facts.put("trace", trace));
        run.recordedAt().ifPresent(at -> facts.put("on record since", frame.time(at)));
        return facts;
    }

    private static List<Try> tries(Frame frame, RunView run) {
        if (run.attempts().isEmpty()) {
            return List.of();
        }
        Instant from = run.owed().planned().isBefore(run.attempts().get(0).startedAt())
                ? run.owed().planned()
                : run.attempts().get(0).startedAt();
        Instant until = run.attempts().stream()
                .map(attempt -> attempt.endedAt().orElse(frame.now()))
                .max(Instant::compareTo)
                .orElseThrow();
        double whole = Math.max(1, Duration.between(from, until).toMillis());
        return run.attempts().stream()
                .map(attempt -> {
                    double begin = Duration.between(from, attempt.startedAt()).toMillis() / whole * 100;
                    double end = Duration.between(from, attempt.endedAt().orElse(frame.now()))
                                    .toMillis()
                            / whole
                            * 100;
                    return new Try(
                            attempt,
                            Axis.percent(begin),
                            Axis.percent(Math.max(0.4, end - begin)),
                            frame.time(attempt.startedAt()),
                            attempt.endedAt()
                                    .map(at -> Frame.size(nonNegative(Duration.between(attempt.startedAt(), at))))
                                    .orElse("runs"),
                            attempt.end().map(how -> Fates.word(how.name())).orElse("running"),
                            attempt.end().filter(how -> how == AttemptEnd.LOST).isPresent(),
                            Optional.ofNullable(run.outputs().get(attempt.number())));
                })
                .toList();
    }

    static String pretty(String text) {
        try {
            Object value = JSON.std.anyFrom(text);
            return value instanceof Map<?, ?> || value instanceof List<?> ? JsonText.pretty(value) : text;
        } catch (IOException e) {
            return text;
        }
    }

    private static List<Order> orders(Frame frame, RunView run) {
        if (!frame.mayOrder(run.job().namespace())) {
            return List.of();
        }
        String path = "/runs/" + run.id();
        if (run.outcome().isEmpty()) {
            return List.of(Order.post(
                    "Cancel",
                    run.state().filter(RunState.RUNNING::equals).isPresent()
                            ? "The run is told that it is cancelled, and interrupted a while later. It ends as CANCELLED."
                            : "The run ends as CANCELLED at once; nothing of it has begun.",
                    path + "/cancellations"));
        }
        return List.of(Order.post(
                "Run again",
                "Another run is made of what run " + run.id()
                        + " was owed to, with the same payload and the definition in force now.",
                path + "/reruns"));
    }
}
