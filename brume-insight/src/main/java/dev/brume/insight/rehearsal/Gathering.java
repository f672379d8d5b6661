package dev.brume.insight.rehearsal;

import dev.brume.Attempt;
import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.history.JobView;
import dev.brume.history.RunRow;
import dev.brume.history.RunView;
import dev.brume.history.Span;
import dev.brume.insight.rehearsal.Foresight.BusyMinute;
import dev.brume.insight.rehearsal.Foresight.JobForesight;
import dev.brume.insight.rehearsal.Foresight.LaneForesight;
import dev.brume.insight.rehearsal.Foresight.Lateness;
import dev.brume.insight.rehearsal.Foresight.Touched;
import dev.brume.schedule.Note;
import dev.brume.spi.LedgerLine;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;

/** Gathers what is put on record during a rehearsal, in a form that does not grow with it more than it must. */
final class Gathering {
    private static final long PROMPT_MICROS = 1_000_000;
    private static final int BUSIEST = 5;
    private static final int NAMES = 4;
    private static final int MOST_TOUCHED = 500;
    private static final Set<Note> BY_CLOCKS = Set.of(Note.AFTER_GAP, Note.FIRST_OF_FOLD, Note.SECOND_OF_FOLD);

    private final Map<Long, OfJob> jobs = new HashMap<>();
    private final Map<String, Spells> lanes = new HashMap<>();
    private final Map<Long, Minute> minutes = new HashMap<>();
    private final List<TouchedLine> touchedLines = new ArrayList<>();

    private record TouchedLine(long job, Instant at, Note note) {}

    /** The figures of a job so far. */
    private static final class OfJob {
        private final Longs late = new Longs();
        private final Map<String, Long> skipped = new TreeMap<>();
        private long busy;
        private long passedOver;
    }

    /** The beginnings of a minute. */
    private static final class Minute {
        private long begun;
        private final Set<Long> jobs = new HashSet<>();
    }

    /** Numbers, as small as they can be. */
    private static final class Longs {
        private long[] values = new long[8];
        private int size;

        void add(long value) {
            values = size == values.length ? Arrays.copyOf(values, size * 2) : values;
            values[size++] = value;
        }

        long[] sorted() {
            long[] copy = Arrays.copyOf(values, size);
            Arrays.sort(copy);
            return copy;
        }
    }

    /** When workers of a lane were busy. */
    private static final class Spells {
        private final Longs begins = new Longs();
        private final Longs ends = new Longs();
        private long busyMicros;

        void add(Instant begin, Instant end) {
            begins.add(micros(begin));
            ends.add(micros(end));
            busyMicros += ChronoUnit.MICROS.between(begin, end);
        }
    }

    private static long micros(Instant instant) {
        return ChronoUnit.MICROS.between(Instant.EPOCH, instant);
    }

    void line(LedgerLine line) {
        OfJob job = jobs.computeIfAbsent(line.owed().job(), id -> new OfJob());
        note(line.owed());
        if (line.outcome() == Outcome.SKIPPED) {
            Reason reason = line.reason().orElseThrow();
            job.skipped.merge(reason.name(), 1L, Long::sum);
            job.busy += reason == Reason.BUSY || reason == Reason.TOO_MANY_WAITING ? 1 : 0;
            return;
        }
        began(line.owed(), line.attempts());
        for (Attempt attempt : line.attempts()) {
            attempt.endedAt()
                    .ifPresent(end -> lanes.computeIfAbsent(line.lane(), lane -> new Spells())
                            .add(attempt.startedAt(), end));
        }
    }

    private void began(RunRow.Owed owed, List<Attempt> attempts) {
        if (attempts.isEmpty()) {
            return;
        }
        OfJob job = jobs.computeIfAbsent(owed.job(), id -> new OfJob());
        Instant start = attempts.get(0).startedAt();
        job.late.add(ChronoUnit.MICROS.between(owed.planned(), start));
        job.busy +=
                owed.note().filter(note -> note.contains(RunRow.Owed.WAITED)).isPresent() ? 1 : 0;
        Minute minute = minutes.computeIfAbsent(micros(start) / 60_000_000, at -> new Minute());
        minute.begun++;
        if (minute.jobs.size() < NAMES) {
            minute.jobs.add(owed.job());
        }
    }

    private void note(RunRow.Owed owed) {
        if (owed.note().isPresent() && touchedLines.size() < MOST_TOUCHED) {
            for (Note note : BY_CLOCKS) {
                if (owed.note().get().contains(note.name())) {
                    touchedLines.add(new TouchedLine(owed.job(), owed.planned(), note));
                }
            }
        }
    }

    void span(Span span) {
        jobs.computeIfAbsent(span.job(), id -> new OfJob()).passedOver += span.count();
    }

    // In the end.

    Foresight foresight(
            List<JobView> defined,
            List<RunView> waiting,
            List<RunView> running,
            Crew crew,
            Instant from,
            Duration length) {
        Instant until = from.plus(length);
        Map<Long, JobName> keys = new HashMap<>();
        defined.forEach(view -> keys.put(view.row().id(), view.row().name()));
        Map<JobName, Long> open = new HashMap<>();
        waiting.forEach(run -> open.merge(run.job(), 1L, Long::sum));
        for (RunView run : running) {
            note(run.owed());
            began(run.owed(), run.attempts());
            lanes.computeIfAbsent(run.lane(), lane -> new Spells())
                    .add(run.lastAttempt().orElseThrow().startedAt(), until);
        }
        List<JobForesight> jobsSeen = defined.stream()
                .map(view -> foresight(
                        view,
                        jobs.getOrDefault(view.row().id(), new OfJob()),
                        open.getOrDefault(view.row().name(), 0L) + view.row().waiting() + due(view, until),
                        crew))
                .toList();
        List<Touched> byClocks = touchedLines.stream()
                .map(line -> new Touched(keyOf(keys, line.job), line.at, line.note))
                .sorted(Comparator.comparing(Touched::at).thenComparing(Touched::job))
                .toList();
        return new Foresight(from, until, jobsSeen, busiest(keys), lanes(crew, length), byClocks);
    }

    /** While all workers are busy, nobody plans what is due. */
    private static long due(JobView view, Instant until) {
        return view.row().nextAt().filter(at -> at.isBefore(until)).isPresent() ? 1 : 0;
    }

    private static JobForesight foresight(JobView view, OfJob job, long open, Crew crew) {
        long[] late = job.late.sorted();
        long waited =
                Arrays.stream(late).filter(micros -> micros > PROMPT_MICROS).count();
        Optional<Lateness> lateness =
                late.length == 0 ? Optional.empty() : Optional.of(new Lateness(rank(late, 50), rank(late, 99)));
        return new JobForesight(
                view.row().name(),
                late.length,
                job.busy,
                job.skipped,
                job.passedOver,
                waited,
                lateness,
                late.length == 0 ? Optional.empty() : Optional.of(rank(late, 100)),
                open,
                want(view, crew));
    }

    private static Duration rank(long[] sorted, int percent) {
        int rank = (int) Math.ceil(percent / 100.0 * sorted.length);
        return Duration.of(sorted[Math.max(1, rank) - 1], ChronoUnit.MICROS);
    }

    private static Optional<String> want(JobView view, Crew crew) {
        if (!crew.lanes().containsKey(view.job().lane())) {
            return Optional.of("nobody serves the lane " + view.job().lane());
        }
        return crew.labels().containsAll(view.job().requireLabels())
                ? Optional.empty()
                : Optional.of("nobody carries the labels "
                        + String.join(", ", view.job().requireLabels()));
    }

    private static JobName keyOf(Map<Long, JobName> keys, long job) {
        return Objects.requireNonNull(keys.get(job), () -> "a run of job " + job + ", which is not defined");
    }

    private List<BusyMinute> busiest(Map<Long, JobName> keys) {
        return minutes.entrySet().stream()
                .sorted(Comparator.comparingLong((Map.Entry<Long, Minute> entry) -> -entry.getValue().begun)
                        .thenComparing(Map.Entry::getKey))
                .limit(BUSIEST)
                .map(entry -> {
                    Instant minute = Instant.EPOCH.plus(entry.getKey() * 60, ChronoUnit.SECONDS);
                    return new BusyMinute(
                            minute,
                            entry.getValue().begun,
                            runningAtOnce(minute),
                            entry.getValue().jobs.stream()
                                    .map(job -> keyOf(keys, job))
                                    .sorted()
                                    .toList());
                })
                .toList();
    }

    /** How many attempts of all lanes are under way at once within a minute. */
    private int runningAtOnce(Instant minute) {
        long begin = micros(minute);
        long end = begin + 60_000_000;
        List<long[]> changes = new ArrayList<>();
        for (Spells spells : lanes.values()) {
            for (int i = 0; i < spells.begins.size; i++) {
                long from = Math.max(spells.begins.values[i], begin);
                long until = Math.min(spells.ends.values[i], end);
                if (from < until) {
                    changes.add(new long[] {from, 1});
                    changes.add(new long[] {until, -1});
                }
            }
        }
        changes.sort(Comparator.<long[]>comparingLong(change -> change[0]).thenComparingLong(change -> change[1]));
        int now = 0;
        int most = 0;
        for (long[] change : changes) {
            now += (int) change[1];
            most = Math.max(most, now);
        }
        return most;
    }

    private List<LaneForesight> lanes(Crew crew, Duration length) {
        return crew.lanes().entrySet().stream()
                .sorted(Map.Entry.comparingByKey())
                .map(lane -> {
                    Spells spells = lanes.getOrDefault(lane.getKey(), new Spells());
                    int workers = lane.getValue() * crew.instances();
                    double all = (double) workers * length.toNanos() / 1000;
                    return new LaneForesight(lane.getKey(), workers, most(spells), spells.busyMicros / all);
                })
                .toList();
    }

    /** Ends come before beginnings of the same moment. */
    private static int most(Spells spells) {
        long[] begins = spells.begins.sorted();
        long[] ends = spells.ends.sorted();
        int most = 0;
        int ended = 0;
        for (int begun = 0; begun < begins.length; begun++) {
            while (ends[ended] <= begins[begun]) {
                ended++;
            }
            most = Math.max(most, begun + 1 - ended);
        }
        return most;
    }
}
