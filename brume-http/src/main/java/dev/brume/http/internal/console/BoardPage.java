package dev.brume.http.internal.console;

import dev.brume.JobName;
import dev.brume.Role;
import dev.brume.history.FeedEvent;
import dev.brume.history.FeedPosition;
import dev.brume.history.Pause;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Param;
import dev.brume.http.internal.web.Reply;
import dev.brume.insight.board.Fate;
import dev.brume.insight.board.Scale;
import dev.brume.insight.tally.JobTally;
import dev.brume.insight.tally.Verdict;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** The first page: what was owed and what became of it, left of now; what is coming, right of it. */
public final class BoardPage {
    private static final int LINES = 100;
    private static final int MOST_AT_ONCE = 50;
    private static final Param<Instant> AT = Param.instant("at", "The instant that stands where now would.");
    private static final Param<String> BY =
            Param.text("by", "Whether rows stand together by namespace or by tag.", 20, "tag");
    private static final Param<String> NAMESPACE = Param.text("namespace", "Only jobs of it.", 100, "harbour");
    private static final Param<String> TAG = Param.text("tag", "Only jobs that carry it.", 100, "nightly");
    private static final Param<String> TEXT = Param.text("text", "Only jobs whose name has this in it.", 100, "tide");
    private static final Param<Boolean> TROUBLE = Param.flag("trouble", "Only rows in which something needs a person.");
    private static final Param<Boolean> EMPTY = Param.flag("empty", "Rows with nothing in them, too.");
    private static final Param<Integer> SKIP =
            Param.number("skip", "How many rows were shown before.", 0, 1_000_000, 100);
    private static final Param<String> ROWS =
            Param.text("rows", "These rows alone: NAMESPACE/NAME, with commas between.", 5_000, "harbour/tide-tables");
    private static final Param<Instant> FROM = Param.instant("from", "Where the board begins that these rows are for.");
    private static final Param<Boolean> PART = Param.flag("part", "The rows without the page around them.");
    private static final Param<Boolean> VERDICT = Param.flag("verdict", "The sentence and the findings alone.");

    private final Boards boards;
    private final Doctor doctor;
    private final boolean signsOut;

    BoardPage(Boards boards, Doctor doctor, boolean signsOut) {
        this.boards = boards;
        this.doctor = doctor;
        this.signsOut = signsOut;
    }

    Operation operation() {
        return Operation.get("/board", "board", "The board.")
                .takes(
                        Zoom.PARAM,
                        AT,
                        BY,
                        NAMESPACE,
                        TAG,
                        TEXT,
                        TROUBLE,
                        EMPTY,
                        SKIP,
                        ROWS,
                        FROM,
                        PART,
                        VERDICT,
                        Frame.ZONE,
                        Call.AS_OF)
                .by(this::reply);
    }

    private Reply reply(Call call) {
        Frame frame = Frame.of(call, "board", "Board", signsOut);
        Zoom zoom = call.get(Zoom.PARAM).orElse(Zoom.H24);
        if (call.get(ROWS).isPresent()) {
            Scale scale = call.get(FROM)
                    .map(from -> zoom.from(from, frame.now()))
                    .orElseGet(() -> zoom.scale(frame.now(), call.get(AT)));
            return Html.page("board-rows", Map.of("view", some(call, frame, scale, zoom)));
        }
        Boards.Laid laid = laid(call, frame, zoom, call.get(AT));
        List<Boards.Line> lines = visible(call, laid);
        if (call.get(VERDICT).orElse(false)) {
            return Html.page("verdict", verdict(call, frame, zoom, laid, lines));
        }
        View view = view(call, frame, laid.scale(), zoom, lines, call.get(SKIP).orElse(0));
        if (call.get(PART).orElse(false)) {
            return Html.page("board-rows", Map.of("view", view));
        }
        Map<String, Object> params = verdict(call, frame, zoom, laid, lines);
        params.put("view", view);
        params.put("events", laid.events().map(FeedPosition::toString).orElse(""));
        return Html.page("board", params);
    }

    /** Of the last day, whatever the board shows. */
    private Map<String, Object> verdict(Call call, Frame frame, Zoom zoom, Boards.Laid laid, List<Boards.Line> lines) {
        boolean seesFindings = frame.asOf().isEmpty() && call.caller().mayEverywhere(Role.VIEWER);
        Map<String, Object> params = new HashMap<>();
        params.put("frame", frame);
        boolean isDay = zoom == Zoom.H24 && call.get(AT).isEmpty();
        Boards.Laid day = isDay ? laid : laid(call, frame, Zoom.H24, Optional.empty());
        params.put("sentence", Sentence.of(isDay ? lines : visible(call, day), day.scale(), frame));
        params.put("findings", seesFindings ? doctor.known(call.brume()).orElse(List.of()) : List.of());
        return params;
    }

    private Boards.Laid laid(Call call, Frame frame, Zoom zoom, Optional<Instant> at) {
        return boards.all(call.brume(), call.history(), zoom, at, frame.asOf());
    }

    private static List<Boards.Line> visible(Call call, Boards.Laid laid) {
        return laid.lines().stream()
                .filter(line -> isVisible(call, line.name()))
                .toList();
    }

    private static boolean isVisible(Call call, JobName name) {
        return call.caller().may(Role.VIEWER, name.namespace());
    }

    private View some(Call call, Frame frame, Scale scale, Zoom zoom) {
        Set<JobName> names = new HashSet<>();
        for (String text : call.get(ROWS).orElseThrow().split(",")) {
            JobName name = JobName.parse(text.strip());
            if (isVisible(call, name) && names.size() < MOST_AT_ONCE) {
                names.add(name);
            }
        }
        List<BoardLine> lines = names.stream()
                .sorted()
                .flatMap(name -> Boards.one(call.history(), scale, name).stream())
                .map(line -> line(line, scale, frame))
                .toList();
        return new View(
                frame,
                zoom,
                scale,
                axis(call, frame, scale, zoom),
                List.of(new BoardLine.Group("", lines)),
                lines.size(),
                lines.size(),
                0,
                lines.size(),
                query(call),
                "namespace");
    }

    private static Axis axis(Call call, Frame frame, Scale scale, Zoom zoom) {
        List<Pause> pauses = Stream.concat(call.history().pauses().stream(), call.history().plannedPauses().stream())
                .filter(pause -> switch (pause.scope().kind()) {
                    case EVERYTHING -> true;
                    case NAMESPACE ->
                        call.caller().may(Role.VIEWER, pause.scope().name());
                    case TAG -> call.caller().mayEverywhere(Role.VIEWER);
                    case JOB -> false;
                })
                .toList();
        return Axis.of(scale, zoom.tick(), frame.zone(), pauses);
    }

    private View view(Call call, Frame frame, Scale scale, Zoom zoom, List<Boards.Line> all, int skip) {
        String by = call.get(BY).filter("tag"::equals).orElse("namespace");
        List<Boards.Line> wanted = all.stream()
                .filter(line -> call.get(NAMESPACE)
                        .filter(own -> !own.equals(line.name().namespace()))
                        .isEmpty())
                .filter(line -> call.get(TAG)
                        .filter(own -> !line.job().tags().contains(own))
                        .isEmpty())
                .filter(line -> call.get(TEXT)
                        .filter(own -> !line.name().toString().contains(own))
                        .isEmpty())
                .filter(line -> !call.get(TROUBLE).orElse(false) || isTrouble(line))
                .toList();
        boolean withEmpty = call.get(EMPTY).orElse(false) || call.get(TEXT).isPresent();
        List<Boards.Line> shown = wanted.stream()
                .filter(line -> withEmpty || !line.isEmpty(scale))
                .toList();
        Map<String, List<BoardLine>> groups = new TreeMap<>();
        List<Map.Entry<String, Boards.Line>> ordered = shown.stream()
                .map(line -> Map.entry(group(by, line), line))
                .sorted(Map.Entry.comparingByKey())
                .toList();
        int end = Math.min(ordered.size(), skip + LINES);
        for (Map.Entry<String, Boards.Line> entry : ordered.subList(Math.min(skip, end), end)) {
            groups.computeIfAbsent(entry.getKey(), any -> new ArrayList<>()).add(line(entry.getValue(), scale, frame));
        }
        return new View(
                frame,
                zoom,
                scale,
                axis(call, frame, scale, zoom),
                groups.entrySet().stream()
                        .map(entry -> new BoardLine.Group(entry.getKey(), entry.getValue()))
                        .toList(),
                end,
                shown.size(),
                wanted.size() - shown.size(),
                all.size(),
                query(call),
                by);
    }

    private static String group(String by, Boards.Line line) {
        if (by.equals("namespace")) {
            return line.name().namespace();
        }
        List<String> tags = line.job().tags().stream().sorted().toList();
        return tags.isEmpty() ? "without a tag" : tags.get(0);
    }

    private static boolean isTrouble(Boards.Line line) {
        return line.row().cells().stream()
                        .anyMatch(cell -> cell.worst().compareTo(Fate.LATE) <= 0 || cell.takenOver() > 0)
                || line.deadlines().filter(kept -> kept.missed() > 0).isPresent();
    }

    private static BoardLine line(Boards.Line line, Scale scale, Frame frame) {
        List<Drawn> marks = new ArrayList<>(Drawn.inOrder(
                Mark.of(line.row().cells(), scale, frame), DeadlineMark.of(line.deadlines(), scale, frame)));
        marks.addAll(Mark.of(line.coming(scale), scale, frame));
        return new BoardLine(
                line.name(),
                "row-" + line.row().id(),
                line.row().dropped() ? "dropped" : line.job().enabled() ? line.paused() ? "paused" : "" : "disabled",
                summary(line),
                isTrouble(line),
                marks);
    }

    private static String summary(Boards.Line line) {
        JobTally tally = line.row().tally();
        List<String> parts = new ArrayList<>();
        parts.add(Sentence.number(tally.expected()) + " owed");
        for (Verdict verdict : List.of(
                Verdict.UNEXPLAINED, Verdict.MISSED, Verdict.LATE, Verdict.SKIPPED, Verdict.PAUSED, Verdict.WAITING)) {
            if (tally.count(verdict) > 0) {
                parts.add(Sentence.number(tally.count(verdict)) + " "
                        + verdict.name().toLowerCase(Locale.ROOT));
            }
        }
        if (tally.failed() > 0) {
            parts.add(Sentence.number(tally.failed()) + " failed");
        }
        line.deadlines()
                .filter(kept -> kept.missed() > 0)
                .ifPresent(kept -> parts.add(kept.missed() + " of " + kept.due() + " deadlines missed"));
        return String.join(", ", parts);
    }

    private static Map<String, String> query(Call call) {
        Map<String, String> query = new LinkedHashMap<>();
        call.get(Zoom.PARAM).ifPresent(zoom -> query.put("zoom", zoom.word()));
        call.get(AT).ifPresent(at -> query.put("at", at.toString()));
        call.get(BY).ifPresent(by -> query.put("by", by));
        call.get(NAMESPACE).ifPresent(name -> query.put("namespace", name));
        call.get(TAG).ifPresent(tag -> query.put("tag", tag));
        call.get(TEXT).ifPresent(text -> query.put("text", text));
        call.get(TROUBLE).filter(on -> on).ifPresent(on -> query.put("trouble", "true"));
        call.get(EMPTY).filter(on -> on).ifPresent(on -> query.put("empty", "true"));
        return query;
    }

    /** What the rows are made of. */
    public record View(
            Frame frame,
            Zoom zoom,
            Scale scale,
            Axis axis,
            List<BoardLine.Group> groups,
            int shown,
            int wanted,
            int empty,
            int all,
            Map<String, String> query,
            String by) {
        /** {@return the address of the board with some things otherwise; an empty text leaves one out} */
        public String with(String... namesAndValues) {
            Map<String, String> other = new LinkedHashMap<>(query);
            for (int i = 0; i < namesAndValues.length; i += 2) {
                if (namesAndValues[i + 1].isEmpty()) {
                    other.remove(namesAndValues[i]);
                } else {
                    other.put(namesAndValues[i], namesAndValues[i + 1]);
                }
            }
            String text = other.entrySet().stream()
                    .map(entry -> entry.getKey() + "=" + Frame.encoded(entry.getValue()))
                    .collect(Collectors.joining("&"));
            return frame.href("/" + (text.isEmpty() ? "" : "?" + text));
        }

        /** {@return the zooms by their words} */
        public List<String> zooms() {
            return Zoom.words();
        }

        /** {@return the zoom in force} */
        public String zoomWord() {
            return zoom.word();
        }

        /** {@return the address of the board so many steps to a side} */
        public String panned(int steps) {
            Instant middle = query.containsKey("at") ? Instant.parse(query.get("at")) : frame.now();
            Instant at = middle.plus(zoom.step().multipliedBy(steps));
            return with("at", at.truncatedTo(ChronoUnit.SECONDS).toString());
        }

        /** {@return the fates that the legend explains, in the order of how much they need a person} */
        public List<Fate> legend() {
            return Arrays.stream(Fate.values())
                    .filter(fate -> fate != Fate.BEYOND)
                    .toList();
        }

        /** {@return the kinds of events that change rows} */
        public String kinds() {
            return Arrays.stream(FeedEvent.Kind.values())
                    .map(FeedEvent.Kind::toString)
                    .collect(Collectors.joining(" "));
        }

        /** {@return what is shown, in words} */
        public String period() {
            return frame.day(scale.from()) + " " + frame.clock(scale.from()) + " to " + frame.day(scale.until()) + " "
                    + frame.clock(scale.until());
        }

        /** {@return whether there are more rows} */
        public boolean hasMore() {
            return shown < wanted;
        }
    }
}
