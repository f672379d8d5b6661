package dev.brume.memory;

import dev.brume.Attempt;
import dev.brume.CalendarName;
import dev.brume.GateKey;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Keep;
import dev.brume.RunState;
import dev.brume.StopReason;
import dev.brume.history.AllowanceRow;
import dev.brume.history.CalendarRow;
import dev.brume.history.CauseRow;
import dev.brume.history.ChangeView;
import dev.brume.history.Content;
import dev.brume.history.Erasure;
import dev.brume.history.Gate;
import dev.brume.history.JobRow;
import dev.brume.history.LastEnd;
import dev.brume.history.LineSums;
import dev.brume.history.NamedLeaseRow;
import dev.brume.history.NoticeRow;
import dev.brume.history.Output;
import dev.brume.history.Past;
import dev.brume.history.Pause;
import dev.brume.history.Printed;
import dev.brume.history.Progress;
import dev.brume.history.Reach;
import dev.brume.history.RunRow;
import dev.brume.history.RunView;
import dev.brume.history.Seal;
import dev.brume.history.SealHead;
import dev.brume.history.SessionRow;
import dev.brume.history.SignInRow;
import dev.brume.history.Span;
import dev.brume.history.TellingRow;
import dev.brume.history.VersionKey;
import dev.brume.spi.LedgerLine;
import dev.brume.spi.Notable;
import dev.brume.spi.NoticeHead;
import dev.brume.spi.OneOffRow;
import dev.brume.spi.PrintedNote;
import dev.brume.spi.RequestKey;
import dev.brume.spi.RequestRow;
import dev.brume.spi.RollUpSteps;
import dev.brume.spi.Settle;
import dev.brume.spi.Share;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.Deque;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.SortedMap;
import java.util.SortedSet;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.UUID;
import java.util.function.Predicate;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** The rows, and how to undo what a transaction did to them. Guarded by itself. */
final class Tables {
    /** A job's row with what only memory keeps beside it. */
    record StoredJob(JobRow row, boolean live, Instant definedAt) {}

    /** A name that a job had. */
    record FormerName(long job, JobName name) {}

    /** A calendar's newest version. */
    record StoredCalendar(CalendarRow row, Instant definedAt) {}

    /** The key that no two runs may share. */
    record Debt(long job, Instant planned, String slot) {}

    /** As they are shown. */
    static final Comparator<Pause> PAUSES = Comparator.comparing(Pause::since)
            .thenComparing(pause -> pause.scope().kind().name())
            .thenComparing(pause -> pause.scope().name());

    /** How many places a gate had up to an instant. */
    record PastCap(GateKey gate, int cap, Instant until) {}

    /** When a run waited for a place. */
    record Wait(Instant since, Optional<Instant> until) {}

    /** Names an output. */
    record OutputKey(long run, int attempt) {}

    final JobTable jobs = new JobTable();
    final Map<VersionKey, Job> versions = new HashMap<>();
    final Map<Long, Instant> droppedAt = new HashMap<>();
    final Map<VersionKey, Instant> versionsFrom = new HashMap<>();
    final Map<VersionKey, String> versionSources = new HashMap<>();
    final TreeMap<Long, VersionKey> versionNumbers = new TreeMap<>();
    final Map<CalendarName, StoredCalendar> calendars = new TreeMap<>(Comparator.comparing(CalendarName::toString));
    final Map<GateKey, Gate> gates = new TreeMap<>();
    final Map<Long, OneOffRow> oneOffs = new TreeMap<>();
    final Map<String, Long> revisions = new HashMap<>();
    final Map<Long, Instant> builds = new HashMap<>();
    final Map<Debt, Long> debts = new HashMap<>();
    final Map<String, String> notes = new HashMap<>();
    final RunTable runs = new RunTable();
    final TreeMap<Long, LedgerLine> ledger = new TreeMap<>();
    final Map<Long, Instant> recordedAt = new HashMap<>();
    final Map<Long, Settle> settles = new TreeMap<>();
    final Map<Long, Settle> looks = new TreeMap<>();
    final Map<Long, Boolean> awaited = new HashMap<>();
    final Map<Long, Instant> endedWaiting = new HashMap<>();
    final Map<UUID, SessionRow> sessions = new LinkedHashMap<>();
    final TreeMap<OutputKey, Output> outputs =
            new TreeMap<>(Comparator.comparingLong(OutputKey::run).thenComparing(OutputKey::attempt));
    final Map<Long, PastCap> pastCaps = new TreeMap<>();
    final Map<UUID, SessionRow> pastSessions = new LinkedHashMap<>();
    final Map<UUID, Instant> drainingSince = new HashMap<>();
    final TreeMap<Long, Wait> waits = new TreeMap<>();
    final TreeMap<Long, Erasure> erasures = new TreeMap<>();
    final TreeMap<Long, Span> spans = new TreeMap<>();
    final Map<String, NamedLeaseRow> leases = new TreeMap<>();
    final TreeMap<Long, MemoryFeed.Fed> feed = new TreeMap<>();
    final Map<String, MemoryFeed.Head> feedHead = new HashMap<>();
    final Map<String, NoticeHead> noticeHead = new HashMap<>();
    final TreeMap<String, TellingRow> tellings = new TreeMap<>();
    final TreeMap<Long, List<Notable>> notables = new TreeMap<>();
    final TreeMap<String, CauseRow> causes = new TreeMap<>();
    final TreeMap<Long, NoticeRow> notices = new TreeMap<>();
    final Map<String, Long> noticeNumbers = new HashMap<>();
    final Map<RequestKey, RequestRow> requests = new HashMap<>();
    final Map<String, MemoryAccess.Token> tokens = new TreeMap<>();
    final Map<String, SignInRow> signIns = new HashMap<>();
    final Map<Long, Progress> progress = new HashMap<>();
    final Map<Long, PrintedNote> printed = new HashMap<>();
    final Map<Long, StopReason> stops = new TreeMap<>();
    final Map<Long, Pause> pauses = new TreeMap<>();
    final Map<Long, FormerName> formerNames = new TreeMap<>();
    final TreeMap<String, AllowanceRow> allowances = new TreeMap<>();
    final TreeMap<Long, ChangeView> changes = new TreeMap<>();
    final Map<String, Keep> bounds = new HashMap<>();
    final Map<Long, Instant> keptFrom = new HashMap<>();
    final TreeMap<Long, Seal> seals = new TreeMap<>();
    final Map<String, SealHead> sealHead = new HashMap<>();
    final Map<RollUpSteps.Day, SortedMap<Instant, LineSums>> rollUp = new HashMap<>();
    final Map<String, Reach> rollUpHead = new HashMap<>();
    private final Map<String, Long> numbers = new TreeMap<>();
    private final Deque<Runnable> undo = new ArrayDeque<>();
    private final List<Object> recorded = new ArrayList<>();
    private final Ear ear;
    private final int most;
    private int histories = 1;

    /** Hears of what was put on record, once it is committed. */
    interface Ear {
        void line(LedgerLine line);

        void span(Span span);
    }

    /**
     * Begins without rows.
     *
     * @param most how many ledger lines are kept; the oldest go first
     */
    Tables(Ear ear, int most) {
        this.ear = ear;
        this.most = most;
        notes.put("timeline", timeline());
    }

    void begin() {
        undo.clear();
        recorded.clear();
    }

    void commit() {
        undo.clear();
        for (Object each : recorded) {
            if (each instanceof LedgerLine line) {
                ear.line(line);
            } else {
                ear.span((Span) each);
            }
        }
        recorded.clear();
    }

    void rollback() {
        undo.forEach(Runnable::run);
        undo.clear();
        recorded.clear();
    }

    /** Adds a line to the ledger; the oldest go, with all that was kept beside them, if there are too many. */
    void record(LedgerLine line, Instant now) {
        put(ledger, line.run(), line);
        put(recordedAt, line.run(), now);
        recorded.add(line);
        if (ledger.size() > most) {
            LedgerLine oldest = ledger.firstEntry().getValue();
            remove(ledger, oldest.run());
            remove(recordedAt, oldest.run());
            remove(endedWaiting, oldest.run());
            remove(erasures, oldest.run());
            remove(waits, oldest.run());
            remove(
                    debts,
                    new Debt(
                            oldest.owed().job(),
                            oldest.owed().planned(),
                            oldest.owed().slot()));
            oldest.attempts().forEach(attempt -> remove(outputs, new OutputKey(oldest.run(), attempt.number())));
        }
    }

    /** Adds a span. */
    void record(Span span) {
        put(spans, next("span"), span);
        recorded.add(span);
    }

    /** {@return the row of a key that another row names, so that it is there} */
    static <K, V> V row(Map<K, V> table, K key) {
        return Objects.requireNonNull(table.get(key), () -> "memory: no row " + key);
    }

    /** {@return a job's row with its places counted: of all its live runs if it is crowded, or else of the newest alone} */
    JobRow counted(StoredJob stored) {
        JobRow row = stored.row();
        List<RunRow> live = row.runs().crowded()
                ? runs.ofJob(row.id()).toList()
                : row.runs().newest().map(runs::get).stream().toList();
        int waiting = (int)
                live.stream().filter(run -> run.state() == RunState.WAITING).count();
        return row.counted(live.size() - waiting, waiting);
    }

    /** {@return the end of the newest run of a job that has ended} */
    Optional<LastEnd> lastEnd(JobRow row) {
        return Stream.of(row.runs().newest(), row.runs().ended())
                .flatMap(Optional::stream)
                .map(ledger::get)
                .filter(Objects::nonNull)
                .max(Comparator.comparing(LedgerLine::run))
                .map(line -> new LastEnd(line.run(), line.outcome(), endedAt(line)));
    }

    /** Removes what was in force only before an instant. */
    void forgetPast(Instant before) {
        removeIf(pauses, pause -> pause.until().filter(before::isAfter).isPresent());
        removeIf(pastCaps, past -> past.until().isBefore(before));
        removeIf(
                pastSessions,
                session -> session.endedAt().filter(end -> end.isBefore(before)).isPresent());
        drainingSince.keySet().stream()
                .filter(id -> !sessions.containsKey(id) && !pastSessions.containsKey(id))
                .toList()
                .forEach(id -> remove(drainingSince, id));
    }

    /** Removes the sums of a job's days, or of all, that ended before an instant. */
    void forgetSums(Optional<Long> job, Instant before) {
        Instant day = before.truncatedTo(ChronoUnit.DAYS);
        rollUp.keySet().stream()
                .filter(each -> each.begin().isBefore(day)
                        && job.filter(id -> id != each.job()).isEmpty())
                .toList()
                .forEach(each -> remove(rollUp, each));
    }

    private <K, V> void removeIf(Map<K, V> table, Predicate<V> condition) {
        table.entrySet().stream()
                .filter(entry -> condition.test(entry.getValue()))
                .map(Map.Entry::getKey)
                .toList()
                .forEach(key -> remove(table, key));
    }

    /** {@return what was in force at an instant} */
    Past past(Instant at) {
        List<Pause> then = pauses.values().stream()
                .filter(pause -> pause.isInForce(at))
                .sorted(PAUSES)
                .toList();
        SortedMap<GateKey, Integer> caps = new TreeMap<>();
        gates.values().forEach(gate -> caps.put(gate.key(), gate.cap()));
        pastCaps.values().stream()
                .filter(past -> past.until().isAfter(at))
                .sorted(Comparator.comparing(PastCap::until).reversed())
                .forEach(past -> caps.put(past.gate(), past.cap()));
        List<SessionRow> lived = Stream.concat(sessions.values().stream(), pastSessions.values().stream())
                .filter(session -> !session.openedAt().isAfter(at))
                .filter(session ->
                        session.endedAt().filter(end -> !end.isAfter(at)).isEmpty())
                .map(session -> session.at(
                        drainingSince.getOrDefault(session.id(), Instant.MAX).isAfter(at)
                                ? SessionRow.State.OPEN
                                : SessionRow.State.DRAINING,
                        Optional.empty()))
                .sorted(Comparator.comparing(SessionRow::openedAt)
                        .thenComparing(session -> session.id().toString()))
                .toList();
        SortedSet<Long> waiting = new TreeSet<>();
        waits.forEach((run, wait) -> {
            if (!wait.since().isAfter(at)
                    && wait.until().filter(until -> !until.isAfter(at)).isEmpty()) {
                waiting.add(run);
            }
        });
        return new Past(at, then, caps, lived, waiting);
    }

    /** Notes that a run waits no more, if it did. */
    void waitsNoMore(long run, Instant until) {
        Wait wait = waits.get(run);
        if (wait != null && wait.until().isEmpty()) {
            put(waits, run, new Wait(wait.since(), Optional.of(until)));
        }
    }

    private Instant endedAt(LedgerLine line) {
        return Optional.ofNullable(endedWaiting.get(line.run()))
                .or(() -> line.attempts().stream().reduce((a, b) -> b).flatMap(Attempt::endedAt))
                .orElseGet(line::readyAt);
    }

    /** {@return the definition in force of a job} */
    Job definition(JobRow row) {
        return row(versions, row.versionKey());
    }

    /** {@return whether jobs are in a share} */
    Predicate<StoredJob> isIn(Share share) {
        return job -> share.isWhole()
                || share.has(definition(job.row()).lane(), job.row().id());
    }

    /** {@return the names that a job had, the first first} */
    List<JobName> formerNamesOf(long job) {
        return formerNames.values().stream()
                .filter(former -> former.job() == job)
                .map(FormerName::name)
                .toList();
    }

    /** {@return the name that a job had first} */
    JobName firstNameOf(long job) {
        return formerNamesOf(job).stream().findFirst().orElseGet(() -> keyOf(job));
    }

    /** {@return the name of a job} */
    JobName keyOf(long job) {
        return row(jobs, job).row().name();
    }

    /** {@return what the attempts of a run printed} */
    SortedMap<OutputKey, Output> outputsOf(long run) {
        return outputs.subMap(new OutputKey(run, 0), new OutputKey(run + 1, 0));
    }

    /** {@return what is on record of a run's content} */
    Content contentOf(RunView run) {
        return Content.of(
                run,
                outputsOf(run.id()).entrySet().stream()
                        .map(output -> Printed.of(output.getKey().attempt(), output.getValue()))
                        .toList());
    }

    <K, V> void put(Map<K, V> table, K key, V value) {
        V before = table.put(key, value);
        undo.push(() -> restore(table, key, before));
    }

    <K, V> void remove(Map<K, V> table, K key) {
        V before = table.remove(key);
        undo.push(() -> restore(table, key, before));
    }

    private static <K, V> void restore(Map<K, V> table, K key, @Nullable V before) {
        if (before == null) {
            table.remove(key);
        } else {
            table.put(key, before);
        }
    }

    /** Takes the next number of a sequence; not given back by a rollback, as in any database. */
    long next(String sequence) {
        return numbers.merge(sequence, 1L, Long::sum);
    }

    /** Names the history of itself that this store is in. */
    String timeline() {
        return Integer.toString(histories);
    }

    private List<Map<?, ?>> all() {
        return List.of(
                jobs,
                droppedAt,
                versions,
                versionsFrom,
                versionSources,
                versionNumbers,
                calendars,
                gates,
                oneOffs,
                revisions,
                builds,
                debts,
                notes,
                runs,
                ledger,
                recordedAt,
                settles,
                looks,
                awaited,
                endedWaiting,
                sessions,
                outputs,
                spans,
                erasures,
                pastCaps,
                pastSessions,
                drainingSince,
                waits,
                progress,
                printed,
                requests,
                tokens,
                signIns,
                feed,
                feedHead,
                noticeHead,
                tellings,
                notables,
                causes,
                notices,
                noticeNumbers,
                leases,
                stops,
                pauses,
                formerNames,
                allowances,
                changes,
                bounds,
                keptFrom,
                seals,
                sealHead,
                rollUp,
                rollUpHead,
                numbers);
    }

    /** {@return a copy of everything; rows never change, so they are shared} */
    List<Map<?, ?>> copy() {
        List<Map<?, ?>> copies = new ArrayList<>();
        all().forEach(table -> copies.add(new LinkedHashMap<>(table)));
        return copies;
    }

    /** Becomes a copy, in a history of its own. */
    @SuppressWarnings("unchecked")
    void become(List<Map<?, ?>> copies) {
        List<Map<?, ?>> tables = all();
        for (int i = 0; i < tables.size(); i++) {
            Map<Object, Object> table = (Map<Object, Object>) tables.get(i);
            table.clear();
            table.putAll(copies.get(i));
        }
        histories++;
    }

    long epoch() {
        return numbers.getOrDefault("epoch", 0L);
    }
}
