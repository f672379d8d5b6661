package dev.brume.http.internal.console;

import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.definitions.JsonText;
import dev.brume.definitions.TimeText;
import dev.brume.history.JobFilter;
import dev.brume.history.JobOrder;
import dev.brume.history.JobView;
import dev.brume.history.OneOffFilter;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.http.internal.console.Table.Cell;
import dev.brume.http.internal.console.Table.Line;
import dev.brume.http.internal.resource.Shared;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Param;
import dev.brume.http.internal.web.Problem;
import dev.brume.http.internal.web.Reply;
import dev.brume.insight.board.Fate;
import dev.brume.insight.board.Scale;
import dev.brume.insight.why.Question;
import dev.brume.schedule.Occurrence;
import java.time.Duration;
import java.time.Instant;
import java.time.format.DateTimeFormatter;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/** The list of jobs, a job, and what became of one of its occurrences. */
public final class JobPages {
    private static final DateTimeFormatter LOCAL = DateTimeFormatter.ofPattern("uuuu-MM-dd HH:mm:ss", Locale.ROOT);
    private static final int PAGE = 50;
    private static final int NEXT = 10;
    private static final int NEWEST = 100;
    private static final int VERSIONS = 10;
    private static final int WEEKS = 4;
    private static final int LATELY = 20;
    private static final int OFTEN = 300;
    private static final Duration A_DAY = Duration.ofDays(1);
    private static final int HIGHEST = 20;
    private static final Param<String> TEXT = Param.text("text", "Whose name has this in it.", 100, "tide");
    private static final Param<String> NAMESPACE = Param.text("namespace", "Of it.", 100, "harbour");
    private static final Param<String> TAG = Param.text("tag", "That carry it.", 100, "nightly");
    private static final Param<String> STATE = Param.text("state", "That fail, or are paused.", 20, "failing");
    private static final Param<String> SORT =
            Param.text("sort", "By name, or those first that are due next.", 10, "next");
    private static final Param<String> AFTER = Param.text("after", "Behind this job.", 201, "harbour/buoy-check");
    private static final Param<Instant> AT = Param.instant("at", "An occurrence, to be told what became of it.");
    private static final Param<Boolean> PART = Param.flag("part", "The part that changes, without the page around it.");

    private final boolean signsOut;

    JobPages(boolean signsOut) {
        this.signsOut = signsOut;
    }

    List<Operation> operations() {
        return List.of(
                Operation.get("/jobs", "jobsPage", "The jobs.")
                        .takes(TEXT, NAMESPACE, TAG, STATE, SORT, AFTER, PART, Frame.ZONE, Call.AS_OF)
                        .by(this::list),
                Operation.get("/jobs/{namespace}/{job}", "jobPage", "A job.")
                        .takes(AT, Frame.ZONE, Call.AS_OF)
                        .by(this::job),
                Operation.get("/jobs/{namespace}/{job}/lately", "latelyPart", "How the newest runs of a job went.")
                        .takes(Frame.ZONE, Call.AS_OF)
                        .by(this::lately),
                Operation.get(
                                "/jobs/{namespace}/{job}/durations",
                                "durationsPart",
                                "How long the newest runs of a job took.")
                        .takes(Frame.ZONE, Call.AS_OF)
                        .by(this::durations),
                Operation.get(
                                "/jobs/{namespace}/{job}/weeks",
                                "weeksPart",
                                "What became of a job in the last four weeks.")
                        .takes(Frame.ZONE, Call.AS_OF)
                        .by(this::weeks),
                Operation.get("/jobs/{namespace}/{job}/why", "whyPart", "What became of an occurrence, in a sentence.")
                        .takes(AT, Frame.ZONE, Call.AS_OF)
                        .by(this::why));
    }

    /** A job in the list. */
    public record Listed(
            JobView view,
            String schedule,
            String written,
            String state,
            String last,
            String lastAgo,
            Optional<Long> lastRun,
            String lastForm,
            String next,
            String nextIn,
            boolean mayOrder) {}

    private Reply list(Call call) {
        Frame frame = Frame.of(call, "jobs", "Jobs", signsOut);
        JobFilter filter = JobFilter.first(PAGE + 1)
                .within(call.namespaces(call.get(NAMESPACE).map(Set::of).orElse(Set.of())));
        filter = call.get(TEXT)
                .map(text -> "*" + text.strip() + "*")
                .map(filter::named)
                .orElse(filter);
        filter = call.get(TAG).map(filter::withTag).orElse(filter);
        filter = call.get(STATE).filter("failing"::equals).isPresent() ? filter.thatFail() : filter;
        filter = call.get(STATE).filter("paused"::equals).isPresent() ? filter.thatArePaused() : filter;
        filter = call.get(SORT).filter("next"::equals).isPresent() ? filter.in(JobOrder.NEXT) : filter;
        filter = call.get(AFTER).map(Pick::job).map(filter::after).orElse(filter);
        List<JobView> jobs = call.jobs(filter);
        List<JobView> shown = jobs.subList(0, Math.min(PAGE, jobs.size()));
        Map<String, Object> params = new HashMap<>();
        params.put("frame", frame);
        params.put("jobs", shown.stream().map(view -> listed(frame, view)).toList());
        params.put(
                "more",
                jobs.size() > PAGE
                        ? frame.href("/jobs?" + Pick.query(call, "text", "namespace", "tag", "state", "sort") + "after="
                                + Frame.encoded(shown.get(PAGE - 1).name().namespace() + "/"
                                        + shown.get(PAGE - 1).name().name()))
                        : "");
        if (call.get(PART).orElse(false)) {
            return Html.page("jobs-part", params);
        }
        params.put("text", call.get(TEXT).orElse(""));
        params.put("namespace", call.get(NAMESPACE).orElse(""));
        params.put("tag", call.get(TAG).orElse(""));
        params.put("state", call.get(STATE).orElse(""));
        params.put("sort", call.get(SORT).orElse(""));
        return Html.page("jobs", params);
    }

    private static Listed listed(Frame frame, JobView view) {
        Optional<Instant> next = view.row().nextOccurrence();
        return new Listed(
                view,
                view.job().scheduleInWords(),
                written(view.job()),
                state(view),
                view.lastEnd().map(end -> Fates.word(end.outcome().name())).orElse("never"),
                view.lastEnd().map(end -> frame.distance(end.at())).orElse(""),
                view.lastEnd().map(end -> end.run()),
                view.lastEnd()
                        .map(end -> Fate.of(end.outcome()).name().toLowerCase(Locale.ROOT))
                        .orElse(""),
                frame.time(next),
                next.map(at -> (at.isBefore(frame.now()) ? "due " : "") + frame.distance(at))
                        .orElse(""),
                frame.mayOrder(view.name().namespace()));
    }

    private static String written(Job job) {
        return job.schedules().stream()
                .map(schedule -> schedule.rule().toString())
                .collect(Collectors.joining("; "));
    }

    private static String state(JobView view) {
        if (!view.job().enabled()) {
            return "disabled";
        }
        if (view.row().paused()) {
            return "paused";
        }
        if (view.row().used() > 0) {
            return view.row().used() + " unfinished";
        }
        return view.row().waiting() > 0 ? view.row().waiting() + " waiting" : "";
    }

    /** The newest runs of a job: how long each took, as a height, oldest first. */
    public record Lately(List<Bar> bars, String words) {}

    /** A run among them. */
    public record Bar(int x, int y, int height, String form, String says) {}

    private Reply lately(Call call) {
        JobView view = call.job();
        Frame frame = Frame.of(call, "jobs", "Lately", signsOut);
        List<RunView> runs = call.history().runs(RunFilter.newest(LATELY).of(view.name())).stream()
                .filter(run -> run.outcome().isPresent() && !run.attempts().isEmpty())
                .toList();
        List<Double> took = runs.stream().map(JobPages::took).toList();
        double longest = took.stream().mapToDouble(Double::doubleValue).max().orElse(0);
        List<Bar> bars = new ArrayList<>();
        for (int i = runs.size() - 1; i >= 0; i--) {
            RunView run = runs.get(i);
            int height = longest == 0 ? 1 : Math.max(1, (int) Math.round(took.get(i) / longest * HIGHEST));
            bars.add(new Bar(
                    (runs.size() - 1 - i) * 5,
                    HIGHEST + 1 - height,
                    height,
                    Fates.of(run).name().toLowerCase(Locale.ROOT),
                    frame.time(run.owed().planned()) + ": " + Fates.word(run) + ", took "
                            + Frame.size(Duration.ofMillis((long) (took.get(i) * 1000)))));
        }
        long good = runs.stream().filter(run -> Fates.of(run) == Fate.RAN).count();
        String words = runs.isEmpty() ? "" : good + " of " + runs.size() + " succeeded";
        return Html.page("lately", Map.of("lately", new Lately(bars, words)));
    }

    private static double took(RunView run) {
        return run.lastAttempt()
                .flatMap(last -> last.endedAt().map(end -> seconds(last.startedAt(), end)))
                .orElse(0.0);
    }

    private Reply job(Call call) {
        JobView view = call.job();
        JobName name = view.name();
        Frame frame = Frame.of(call, "jobs", name.toString(), signsOut);
        Map<String, Object> params = new HashMap<>();
        params.put("frame", frame);
        params.put("view", view);
        params.put("words", view.job().scheduleInWords());
        params.put("written", written(view.job()));
        params.put("state", state(view));
        Question question = question(call, frame, view);
        params.put("now", frame.asOf().isPresent() ? "" : question.aboutNow().sentence());
        params.put(
                "then",
                call.get(AT).filter(at -> at.isBefore(frame.now())).isPresent()
                                && frame.asOf().isEmpty()
                        ? question.about(call.get(AT).orElseThrow()).sentence()
                        : "");
        params.put("policies", Policies.of(view.job()));
        params.put("next", next(frame, view));
        params.put(
                "runs",
                RunPages.table(
                        frame,
                        "Newest runs",
                        question.newest().stream().limit(LATELY).toList(),
                        /* withJob= */ false));
        params.put("versions", versions(call, frame, view));
        params.put("oneOffs", oneOffs(call, frame, name));
        params.put("chain", Chain.of(call.history(), frame, view));
        params.put(
                "before",
                call.history().jobs(JobFilter.first(PAGE).followedBy(name).within(call.namespaces())).stream()
                        .map(JobView::name)
                        .toList());
        params.put("orders", orders(frame, view));
        return Html.page("job", params);
    }

    private static Question question(Call call, Frame frame, JobView view) {
        return new Question(call.history(), view, frame.now(), at -> TimeText.near(at, frame.now(), frame.zone()));
    }

    private Reply why(Call call) {
        JobView view = call.job();
        Frame frame = Frame.of(call, "jobs", "Why", signsOut);
        Instant at = call.get(AT).orElseThrow(() -> Problem.ofParameter("at", "is missing"));
        String sentence = at.isBefore(frame.now())
                ? question(call, frame, view).about(at).sentence()
                : view.name() + " is to run " + frame.distance(at) + ", " + frame.time(at) + ".";
        return Reply.of(200, "text/plain", sentence + "\n");
    }

    private static Table next(Frame frame, JobView view) {
        List<Line> lines = new ArrayList<>();
        Optional<Occurrence> next = view.job().next(frame.now());
        while (next.isPresent() && lines.size() < NEXT) {
            Occurrence occurrence = next.get();
            lines.add(Line.of(
                    Cell.time(frame.time(occurrence.instant())),
                    Cell.time(frame.distance(occurrence.instant())),
                    Cell.time(LOCAL.format(occurrence.local()) + ", "
                            + occurrence.zone().getId()),
                    Cell.of(occurrence.notes().stream()
                            .map(note -> Fates.word(note.name()))
                            .collect(Collectors.joining(", ")))));
            next = view.job().next(occurrence.instant());
        }
        return Table.of(
                "The next ten",
                lines,
                "nothing is to come" + (view.job().enabled() ? "." : " as long as it is disabled."),
                "When",
                "In",
                "In its own zone",
                "Moved by");
    }

    /** Of runs oldest first: when they were planned, how long they took and how late they began, in seconds. */
    private Reply durations(Call call) {
        List<RunView> runs =
                call.history().runs(RunFilter.newest(NEWEST).of(call.job().name()));
        List<Double> planned = new ArrayList<>();
        List<Double> took = new ArrayList<>();
        List<Double> late = new ArrayList<>();
        for (int i = runs.size() - 1; i >= 0; i--) {
            RunView run = runs.get(i);
            if (run.attempts().isEmpty()
                    || run.lastAttempt().flatMap(last -> last.endedAt()).isEmpty()) {
                continue;
            }
            Instant began = run.attempts().get(0).startedAt();
            planned.add(run.owed().planned().toEpochMilli() / 1000.0);
            took.add(seconds(
                    run.lastAttempt().get().startedAt(),
                    run.lastAttempt().get().endedAt().get()));
            late.add(seconds(run.owed().planned(), began));
        }
        return Reply.json(List.of(planned, took, late));
    }

    private static double seconds(Instant from, Instant until) {
        return Math.max(0, Duration.between(from, until).toMillis()) / 1000.0;
    }

    /** A week of a job on a line of time. */
    public record Week(String from, List<Drawn> marks, String summary) {}

    /** A part of the job's page, and a page of its own where there are no scripts. */
    private Reply weeks(Call call) {
        JobView view = call.job();
        Frame frame = Frame.of(call, "jobs", view.name() + ", week by week", signsOut);
        Map<String, Object> params = Map.of("frame", frame, "job", view.name(), "weeks", weeks(call, frame, view));
        return Html.page(call.incoming().header("HX-Request").isPresent() ? "weeks" : "weeks-page", params);
    }

    /** Of what comes often, cells are whole days: these are had in sums, whatever went wrong in them. */
    private static List<Week> weeks(Call call, Frame frame, JobView view) {
        Instant end = frame.now();
        boolean often = view.job().timeline().count(end.minus(A_DAY), end) > OFTEN;
        Duration cell = often ? A_DAY : Duration.ofHours(2);
        long width = cell.toSeconds();
        List<Week> weeks = new ArrayList<>();
        for (int i = 0; i < WEEKS; i++) {
            Instant from = Instant.ofEpochSecond(
                    Math.floorDiv(end.minus(Duration.ofDays(7)).getEpochSecond(), width) * width);
            Scale scale = new Scale(from, frame.now(), end, cell);
            Boards.one(call.history(), scale, view.name()).stream()
                    .filter(line -> !line.row().dropped() && !line.row().cells().isEmpty())
                    .findFirst()
                    .ifPresent(line -> weeks.add(new Week(
                            frame.day(from),
                            Drawn.inOrder(
                                    Mark.of(line.row().cells(), scale, frame),
                                    DeadlineMark.of(line.deadlines(), scale, frame)),
                            Sentence.number(line.row().tally().expected()) + " owed")));
            end = from;
        }
        return weeks;
    }

    /** A version, and what is in it. */
    public record Version(int number, String text, String changed, List<Order> orders) {}

    private static List<Version> versions(Call call, Frame frame, JobView view) {
        List<Version> versions = new ArrayList<>();
        String newer = "";
        for (int number = view.row().version(); number > 0 && versions.size() < VERSIONS; number--) {
            Optional<Job> job = call.history().version(view.name(), number);
            if (job.isEmpty()) {
                break;
            }
            String text = JsonText.pretty(Shared.definition(call, job.get()));
            if (!versions.isEmpty()) {
                Version last = versions.remove(versions.size() - 1);
                versions.add(new Version(last.number, last.text, Lines.changed(text, newer), last.orders));
            }
            versions.add(new Version(number, text, "", reverting(frame, view, number)));
            newer = text;
        }
        return versions;
    }

    /** To undo is to put an earlier version in force again, as a new one. */
    private static List<Order> reverting(Frame frame, JobView view, int number) {
        if (number == view.row().version() || !frame.mayDefine(view.name().namespace())) {
            return List.of();
        }
        boolean elsewhere = !view.row().source().equals("http");
        return List.of(Order.post(
                        number == view.row().version() - 1
                                ? "Undo the last change"
                                : "Put version " + number + " in force",
                        "Version " + (view.row().version() + 1) + " will be in force, equal to version " + number + "."
                                + (elsewhere
                                        ? " " + view.row().source()
                                                + " goes on to define the job, and defines it anew when it is applied."
                                        : ""),
                        Frame.jobPath(view.name()) + "/reversions")
                .sending(JsonText.line(Map.of("version", number))));
    }

    private static Table oneOffs(Call call, Frame frame, JobName name) {
        List<Line> lines =
                call.history().oneOffs(new OneOffFilter(Optional.of(name), "", Set.of(), Optional.empty(), 20)).stream()
                        .map(view -> Line.of(
                                Cell.code(view.key()),
                                Cell.time(frame.time(view.dueAt())),
                                Cell.of(frame.distance(view.dueAt())),
                                Cell.of(view.orderedBy())))
                        .toList();
        return Table.of("One-offs that wait", lines, "none waits.", "Key", "Due", "In", "Ordered by");
    }

    private static List<Order> orders(Frame frame, JobView view) {
        JobName name = view.name();
        if (!frame.mayOrder(name.namespace())) {
            return List.of();
        }
        String path = Frame.jobPath(name);
        String scope = JsonText.line(Map.of("job", name.namespace() + "/" + name.name()));
        List<Order> orders = new ArrayList<>();
        orders.add(Order.post(
                        "Run now",
                        "A run of " + name + " starts now, beside what its schedule owes, with the payload below.",
                        path + "/runs")
                .with(new Order.Field(
                        "payload",
                        "Payload"
                                + view.job()
                                        .payloadType()
                                        .map(type -> " (" + type + ")")
                                        .orElse("") + ", JSON or a text; the job's own if it is empty",
                        "",
                        view.job().payloadType().isPresent() ? Order.Kind.JSON : Order.Kind.PAYLOAD)));
        orders.add(Order.post(
                        "Plan a one-off",
                        "The job is owed once more, at an instant that you say, under a key of yours.",
                        path + "/one-offs")
                .with(
                        new Order.Field("key", "Key, by which it is moved or dropped", "", Order.Kind.TEXT),
                        new Order.Field("at", "At", "", Order.Kind.INSTANT),
                        new Order.Field("payload", "Payload, JSON or a text", "", Order.Kind.PAYLOAD)));
        if (view.row().paused()) {
            orders.add(Order.post(
                            "Resume",
                            "The pauses of this job end. What became due meanwhile is made up for as its policy says.",
                            "/resumptions")
                    .sending(scope));
        } else {
            orders.add(Order.post(
                            "Pause",
                            "The job owes nothing until somebody resumes it, or until an instant that you say.",
                            "/pauses")
                    .sending(scope)
                    .with(new Order.Field("until", "Until, if it is to end by itself", "", Order.Kind.INSTANT)));
        }
        if (view.row().nextOccurrence().isPresent()) {
            orders.add(Order.post(
                    "Skip the next",
                    "The occurrence of "
                            + frame.time(view.row().nextOccurrence().get()) + " does not run.",
                    path + "/skips"));
        }
        return orders;
    }
}
