package dev.brume.http.internal.console;

import dev.brume.JobName;
import dev.brume.Role;
import dev.brume.history.History;
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
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.concurrent.Executor;
import java.util.function.LongSupplier;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import java.util.stream.LongStream;

/** What will run in a week or a month, day by day, and which minutes are crowded. */
public final class ComingPage {
    private static final int MOST_JOBS = 20_000;
    private static final long FRESH_NANOS = 10_000_000_000L;
    private static final int DAYS = 7;
    private static final int MONTH = 28;
    private static final int NAMED = 6;
    private static final int CROWDED = 10;
    private static final int NAMED_IN_CROWD = 8;
    private static final Param<String> SPAN = Param.text("span", "A week or a month.", 10, "month");
    private static final Param<String> NAMESPACE = Param.text("namespace", "Only jobs of it.", 100, "harbour");
    private static final DateTimeFormatter DAY = DateTimeFormatter.ofPattern("EEE d MMM", Locale.ENGLISH);
    private static final DateTimeFormatter TIME = DateTimeFormatter.ofPattern("HH:mm", Locale.ROOT);

    private final boolean signsOut;
    private final Shelf<Key, Foresight> kept;

    private record Key(Set<String> namespaces, boolean month, ZoneId zone, Optional<Instant> asOf) {}

    /** What is to come as of a moment ago; whole if no job was left out. */
    private record Foresight(List<Day> days, List<Bar> bars, List<Crowd> crowds, boolean whole) {
        static Foresight of(History history, Frame frame, boolean month, Set<String> namespaces) {
            List<JobView> jobs = history.jobs(JobFilter.first(MOST_JOBS).within(namespaces));
            LocalDate today = frame.now().atZone(frame.zone()).toLocalDate();
            List<Day> days = IntStream.range(0, month ? MONTH : DAYS)
                    .mapToObj(i -> day(frame, jobs, today.plusDays(i), i == 0))
                    .toList();
            Load load = Load.of(frame, jobs);
            return new Foresight(days, load.bars(frame), load.crowds(frame), jobs.size() < MOST_JOBS);
        }
    }

    ComingPage(boolean signsOut, LongSupplier nanos, Executor behind) {
        this.signsOut = signsOut;
        this.kept = new Shelf<>(nanos, any -> FRESH_NANOS, behind);
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
        Set<String> namespaces =
                Set.copyOf(call.namespaces(call.get(NAMESPACE).map(Set::of).orElse(Set.of())));
        History history = call.history();
        Foresight foresight = kept.get(
                new Key(namespaces, month, frame.zone(), frame.asOf()),
                () -> Foresight.of(history, frame, month, namespaces));
        return Html.page(
                "coming",
                Map.of(
                        "frame", frame,
                        "month", month,
                        "days", foresight.days,
                        "bars", foresight.bars,
                        "crowds", foresight.crowds,
                        "orders", rehearsal(call, frame),
                        "all", foresight.whole));
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

    /** What begins in a minute: how often, of how many jobs, and the first of them. */
    private static final class Minute {
        private final List<JobName> first = new ArrayList<>();
        private int jobs;
        private long count;

        void add(JobName job, long times) {
            jobs++;
            count += times;
            if (first.size() < NAMED_IN_CROWD) {
                first.add(job);
            }
        }
    }

    /** The minutes of the next day. */
    private record Load(Scale scale, Map<Instant, Minute> minutes) {
        static Load of(Frame frame, List<JobView> jobs) {
            Scale scale =
                    new Scale(frame.now(), frame.now(), frame.now().plus(Duration.ofDays(1)), Duration.ofMinutes(1));
            Map<Instant, Minute> minutes = new TreeMap<>();
            for (JobView view : jobs) {
                if (!view.row().paused()) {
                    Board.coming(view.job(), frame.now(), /* paused= */ false, scale)
                            .forEach(cell -> minutes.computeIfAbsent(cell.from(), any -> new Minute())
                                    .add(view.name(), cell.count()));
                }
            }
            return new Load(scale, minutes);
        }

        List<Bar> bars(Frame frame) {
            long[] sums = new long[BARS];
            minutes.forEach((minute, begins) -> {
                int bar = (int) Math.max(0, Math.min(BARS - 1.0, scale.share(minute) / 100 * BARS));
                sums[bar] += begins.count;
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
                    .filter(entry -> entry.getValue().jobs > 2)
                    .sorted(Comparator.comparing((Map.Entry<Instant, Minute> entry) -> -entry.getValue().jobs)
                            .thenComparing(Map.Entry::getKey))
                    .limit(CROWDED)
                    .map(entry -> crowd(frame, entry.getKey(), entry.getValue()))
                    .toList();
        }

        private static Crowd crowd(Frame frame, Instant minute, Minute begins) {
            return new Crowd(
                    frame.time(minute),
                    begins.jobs,
                    begins.first.stream().map(JobName::toString).collect(Collectors.joining(", "))
                            + (begins.jobs > begins.first.size() ? ", ..." : ""),
                    "spread: " + Math.max(1, (begins.jobs + 1) / 2) + "m");
        }
    }
}
