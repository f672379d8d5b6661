package dev.brume.http.internal.console;

import dev.brume.JobName;
import dev.brume.Role;
import dev.brume.history.JobFilter;
import dev.brume.history.JobView;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Param;
import dev.brume.http.internal.web.Reply;
import dev.brume.insight.board.Board;
import dev.brume.insight.board.BoardCell;
import dev.brume.insight.board.Scale;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;
import java.util.stream.LongStream;

/** What will run in a week or a month, day by day, and which minutes are crowded. */
public final class ComingPage {
    private static final int MOST_JOBS = 2_000;
    private static final int DAYS = 7;
    private static final int MONTH = 28;
    private static final int NAMED = 6;
    private static final int CROWDED = 10;
    private static final Param<String> SPAN = Param.text("span", "A week or a month.", 10, "month");
    private static final Param<String> NAMESPACE = Param.text("namespace", "Only jobs of it.", 100, "harbour");
    private static final DateTimeFormatter DAY = DateTimeFormatter.ofPattern("EEE d MMM", Locale.ENGLISH);
    private static final DateTimeFormatter TIME = DateTimeFormatter.ofPattern("HH:mm", Locale.ROOT);

    private final boolean signsOut;

    ComingPage(boolean signsOut) {
        this.signsOut = signsOut;
    }

    Operation operation() {
        return Operation.get("/coming", "comingPage", "What is coming.")
                .takes(SPAN, NAMESPACE, Frame.ZONE, Call.AS_OF)
                .by(this::reply);
    }

    /** What a job owes on a day. */
    public record Owed(JobName job, long count, String first) {}

    /** A day, with what is named on it and how many there are beside it. */
    public record Day(String name, boolean today, List<Owed> named, int others, long count, String turn) {}

    /** A minute in which much begins at once. */
    public record Crowd(String when, int count, String jobs, String spread) {}

    private Reply reply(Call call) {
        Frame frame = Frame.of(call, "coming", "Coming", signsOut);
        boolean month = call.get(SPAN).filter("month"::equals).isPresent();
        List<JobView> jobs = call.history()
                .jobs(JobFilter.first(MOST_JOBS)
                        .within(call.namespaces(call.get(NAMESPACE).map(Set::of).orElse(Set.of()))));
        List<Day> days = new ArrayList<>();
        LocalDate today = frame.now().atZone(frame.zone()).toLocalDate();
        for (int i = 0; i < (month ? MONTH : DAYS); i++) {
            days.add(day(frame, jobs, today.plusDays(i), i == 0));
        }
        Load load = Load.of(frame, jobs);
        return Html.page(
                "coming",
                Map.of(
                        "frame",
                        frame,
                        "month",
                        month,
                        "days",
                        days,
                        "bars",
                        load.bars(frame),
                        "crowds",
                        load.crowds(frame),
                        "orders",
                        rehearsal(call, frame),
                        "all",
                        jobs.size() < MOST_JOBS));
    }

    private static List<Order> rehearsal(Call call, Frame frame) {
        return frame.asOf().isPresent() || !call.caller().mayEverywhere(Role.VIEWER)
                ? List.of()
                : List.of(Order.post(
                                "Rehearse",
                                "The engine lives through the days to come in virtual time, with durations as they were measured,"
                                        + " and says what would wait, be late or be skipped. Nothing is changed.",
                                "/rehearsals")
                        .with(
                                new Order.Field("for", "How far ahead, such as 3d", "2d", Order.Kind.TEXT),
                                new Order.Field("instances", "Instances", "1", Order.Kind.NUMBER),
                                new Order.Field("workers", "Workers of each", "16", Order.Kind.NUMBER))
                        .asked());
    }

    private static Day day(Frame frame, List<JobView> jobs, LocalDate date, boolean today) {
        ZoneId zone = frame.zone();
        Instant from = date.atStartOfDay(zone).toInstant();
        Instant until = date.plusDays(1).atStartOfDay(zone).toInstant();
        Scale scale = new Scale(from, frame.now(), until, Duration.ofDays(400));
        List<Owed> owed = new ArrayList<>();
        for (JobView view : jobs) {
            List<BoardCell> cells = view.row().paused()
                    ? List.of()
                    : Board.coming(view.job(), today ? frame.now() : from.minusNanos(1), /* paused= */ false, scale);
            long count = cells.stream().mapToLong(BoardCell::count).sum();
            if (count > 0) {
                owed.add(new Owed(
                        view.name(), count, TIME.format(cells.get(0).first().atZone(zone))));
            }
        }
        owed.sort(Comparator.comparingLong(Owed::count).thenComparing(Owed::first));
        long count = owed.stream().mapToLong(Owed::count).sum();
        long hours = Duration.between(from, until).toHours();
        return new Day(
                DAY.format(date),
                today,
                List.copyOf(owed.subList(0, Math.min(NAMED, owed.size()))),
                Math.max(0, owed.size() - NAMED),
                count,
                hours == 24 ? "" : "clocks change: " + hours + " hours");
    }

    /** How many runs begin in a tenth of an hour of the next day, as a bar. */
    public record Bar(String x, String width, int y, int height, String says) {}

    private static final int BARS = 240;
    private static final int HIGHEST = 56;

    /** Minutes of the next day, and which jobs begin in them how often. */
    private record Load(Scale scale, Map<Instant, Map<JobName, Long>> minutes) {
        static Load of(Frame frame, List<JobView> jobs) {
            Scale scale =
                    new Scale(frame.now(), frame.now(), frame.now().plus(Duration.ofDays(1)), Duration.ofMinutes(1));
            Map<Instant, Map<JobName, Long>> minutes = new TreeMap<>();
            for (JobView view : jobs) {
                if (!view.row().paused()) {
                    Board.coming(view.job(), frame.now(), /* paused= */ false, scale)
                            .forEach(cell -> minutes.computeIfAbsent(cell.from(), any -> new TreeMap<>())
                                    .put(view.name(), cell.count()));
                }
            }
            return new Load(scale, minutes);
        }

        List<Bar> bars(Frame frame) {
            long[] sums = new long[BARS];
            minutes.forEach((minute, jobs) -> {
                int bar = (int) Math.max(0, Math.min(BARS - 1.0, scale.share(minute) / 100 * BARS));
                sums[bar] += jobs.values().stream().mapToLong(Long::longValue).sum();
            });
            long most = Math.max(1, LongStream.of(sums).max().orElse(1));
            List<Bar> bars = new ArrayList<>();
            for (int i = 0; i < BARS; i++) {
                if (sums[i] > 0) {
                    int height = (int) Math.max(1, sums[i] * HIGHEST / most);
                    bars.add(new Bar(
                            Axis.percent(100.0 * i / BARS),
                            Axis.percent(90.0 / BARS),
                            HIGHEST + 2 - height,
                            height,
                            frame.time(frame.now().plusSeconds(86_400L * i / BARS)) + " and 6 min on: "
                                    + Sentence.number(sums[i]) + " runs begin"));
                }
            }
            return bars;
        }

        /** The minutes in which most jobs begin, and what would part them. */
        List<Crowd> crowds(Frame frame) {
            return minutes.entrySet().stream()
                    .filter(entry -> entry.getValue().size() > 2)
                    .sorted(Comparator.comparing((Map.Entry<Instant, Map<JobName, Long>> entry) ->
                                    -entry.getValue().size())
                            .thenComparing(Map.Entry::getKey))
                    .limit(CROWDED)
                    .map(entry -> crowd(frame, entry.getKey(), entry.getValue().keySet()))
                    .toList();
        }

        private static Crowd crowd(Frame frame, Instant minute, Set<JobName> jobs) {
            return new Crowd(
                    frame.time(minute),
                    jobs.size(),
                    jobs.stream().map(JobName::toString).limit(8).collect(Collectors.joining(", "))
                            + (jobs.size() > 8 ? ", ..." : ""),
                    "spread: " + Math.max(1, (jobs.size() + 1) / 2) + "m");
        }
    }
}
