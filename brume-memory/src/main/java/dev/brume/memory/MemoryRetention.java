package dev.brume.memory;

import dev.brume.JobName;
import dev.brume.Keep;
import dev.brume.Origin;
import dev.brume.history.Change;
import dev.brume.history.ChangeView;
import dev.brume.history.Content;
import dev.brume.history.Erasure;
import dev.brume.history.IdRanges;
import dev.brume.history.JobRow;
import dev.brume.history.Kept;
import dev.brume.history.RunRow;
import dev.brume.history.Span;
import dev.brume.spi.LedgerLine;
import dev.brume.spi.RetentionSteps;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.function.Supplier;
import java.util.stream.Stream;

/** The steps of retention on maps. */
final class MemoryRetention implements RetentionSteps {
    private static final String TOTAL = "total";
    private static final String LOOKED_THROUGH = "kept";
    private static final String FLOOR = "floor";
    private static final long ALL = 0;

    private static final Comparator<Place> NEWEST_FIRST = Comparator.comparing(Place::planned)
            .thenComparing(Place::job)
            .thenComparing(Place::slot)
            .reversed();

    private final Tables tables;
    private final Supplier<Instant> clock;

    MemoryRetention(Tables tables, Supplier<Instant> clock) {
        this.tables = tables;
        this.clock = clock;
    }

    @Override
    public void lock() {
        // One transaction at a time is all there is.
    }

    @Override
    public Keep total() {
        return tables.bounds.getOrDefault(TOTAL, Keep.ALL);
    }

    @Override
    public void total(Keep keep) {
        tables.put(tables.bounds, TOTAL, keep);
    }

    @Override
    public Optional<Duration> floor() {
        return Optional.ofNullable(tables.notes.get(FLOOR)).map(Duration::parse);
    }

    @Override
    public void floor(Optional<Duration> age) {
        tables.remove(tables.notes, FLOOR);
        age.ifPresent(floor -> tables.put(tables.notes, FLOOR, floor.toString()));
    }

    @Override
    public Optional<String> said(String beginning) {
        return tables.changes.descendingMap().values().stream()
                .map(ChangeView::change)
                .filter(change -> change.kind().equals("BOUNDED"))
                .map(Change::text)
                .filter(text -> text.startsWith(beginning))
                .findFirst();
    }

    @Override
    public Optional<Instant> appliedAt() {
        return Optional.ofNullable(tables.notes.get(LOOKED_THROUGH)).map(Instant::parse);
    }

    @Override
    public Instant keptFrom() {
        return tables.keptFrom.getOrDefault(ALL, Instant.EPOCH);
    }

    @Override
    public Instant keptFrom(long job) {
        Instant own = tables.keptFrom.getOrDefault(job, Instant.EPOCH);
        return own.isAfter(keptFrom()) ? own : keptFrom();
    }

    @Override
    public List<Kept> jobs(long after, int limit) {
        return tables.jobs.values().stream()
                .map(Tables.StoredJob::row)
                .filter(row -> row.id() > after)
                .filter(row -> !keep(row).isAll())
                .limit(limit)
                .map(row -> new Kept(
                        row.id(),
                        row.name(),
                        row.version(),
                        keep(row),
                        tables.keptFrom.getOrDefault(row.id(), Instant.EPOCH)))
                .toList();
    }

    private Keep keep(JobRow row) {
        return tables.definition(row).keep();
    }

    @Override
    public boolean begin(Instant unlessSince) {
        if (appliedAt().filter(last -> last.isAfter(unlessSince)).isPresent()) {
            return false;
        }
        tables.put(tables.notes, LOOKED_THROUGH, clock.get().toString());
        return true;
    }

    private Stream<LedgerLine> lines(Optional<Long> job) {
        return tables.ledger.values().stream()
                .filter(line -> job.isEmpty() || line.owed().job() == job.get())
                .sorted(Comparator.comparing(line -> line.owed().planned()));
    }

    @Override
    public Removed remove(Optional<Long> job, Instant before, int limit) {
        List<LedgerLine> old = lines(job)
                .filter(line -> line.owed().planned().isBefore(before))
                .limit(limit)
                .toList();
        old.forEach(this::remove);
        if (old.isEmpty()) {
            return Removed.NOTHING;
        }
        Instant last = old.get(old.size() - 1).owed().planned();
        note(job, last.plus(1, ChronoUnit.MICROS));
        return new Removed(
                old.size(),
                Optional.of(old.get(0).owed().planned()),
                Optional.of(last),
                IdRanges.of(old.stream().map(LedgerLine::run).toList()));
    }

    @Override
    public int addMonths(Instant from, Instant until) {
        return 0;
    }

    @Override
    public Optional<Removed> removeMonth(Instant before, boolean isNumbered) {
        return Optional.empty();
    }

    @Override
    public int dropMonths(Instant before) {
        return 0;
    }

    private void remove(LedgerLine line) {
        RunRow.Owed owed = line.owed();
        tables.remove(tables.ledger, line.run());
        tables.remove(tables.recordedAt, line.run());
        tables.remove(tables.endedWaiting, line.run());
        tables.remove(tables.erasures, line.run());
        tables.remove(tables.waits, line.run());
        tables.remove(tables.debts, new Tables.Debt(owed.job(), owed.planned(), owed.slot()));
        List.copyOf(tables.outputsOf(line.run()).keySet()).forEach(key -> tables.remove(tables.outputs, key));
        tables.remove(tables.oneOffs, line.run());
    }

    @Override
    public Optional<Content> content(long run) {
        return Optional.ofNullable(tables.ledger.get(run))
                .map(line -> MemoryHistory.withoutOutput(tables, line))
                .map(tables::contentOf);
    }

    @Override
    public Optional<Erasure> erasure(long run) {
        return Optional.ofNullable(tables.erasures.get(run));
    }

    @Override
    public List<Long> runsOf(JobName job, String key) {
        return tables.ledger.values().stream()
                .filter(line -> tables.keyOf(line.owed().job()).equals(job)
                        && Tables.row(tables.jobs, line.owed().job()).live()
                        && line.owed().oneOffKey().equals(Optional.of(key)))
                .map(LedgerLine::run)
                .toList();
    }

    @Override
    public List<Long> rerunsOf(long run) {
        LedgerLine line = tables.ledger.get(run);
        if (line == null) {
            return List.of();
        }
        Map<Long, RunRow.Owed> owed = new TreeMap<>();
        tables.ledger.values().forEach(each -> owed.put(each.run(), each.owed()));
        tables.runs.ofJob(line.owed().job()).forEach(each -> owed.put(each.id(), each.owed()));
        owed.remove(run);
        owed.values()
                .removeIf(each -> each.job() != line.owed().job()
                        || !each.planned().equals(line.owed().planned())
                        || each.origin() != Origin.RERUN);
        return List.copyOf(owed.keySet());
    }

    @Override
    public void erase(Erasure erasure) {
        LedgerLine line = Tables.row(tables.ledger, erasure.run());
        tables.put(
                tables.ledger,
                line.run(),
                new LedgerLine(
                        line.run(),
                        line.owed(),
                        line.version(),
                        line.lane(),
                        line.readyAt(),
                        line.outcome(),
                        line.reason(),
                        line.attempts().stream()
                                .map(attempt -> attempt.withError(Optional.empty()))
                                .toList(),
                        Optional.empty(),
                        Optional.empty()));
        List.copyOf(tables.outputsOf(line.run()).keySet()).forEach(key -> tables.remove(tables.outputs, key));
        tables.put(tables.erasures, line.run(), erasure);
    }

    private void note(Optional<Long> job, Instant from) {
        long whose = job.orElse(ALL);
        if (tables.keptFrom.getOrDefault(whose, Instant.EPOCH).isBefore(from)) {
            tables.put(tables.keptFrom, whose, from);
        }
    }

    @Override
    public Removed removeSpans(Optional<Long> job, Instant before, int limit) {
        List<Long> old = tables.spans.entrySet().stream()
                .filter(entry -> isOld(entry.getValue(), job, before))
                .map(Map.Entry::getKey)
                .limit(limit)
                .toList();
        List<Span> spans = old.stream().map(id -> Tables.row(tables.spans, id)).toList();
        old.forEach(id -> tables.remove(tables.spans, id));
        return Removed.spans(spans, IdRanges.of(old));
    }

    @Override
    public void close(Optional<Long> job, Instant before) {
        note(job, before);
        tables.forgetSums(job, before);
        if (job.isEmpty()) {
            tables.forgetPast(before);
        }
    }

    private static boolean isOld(Span span, Optional<Long> job, Instant before) {
        return (job.isEmpty() || span.job() == job.get()) && !span.until().isAfter(before);
    }

    @Override
    public List<Place> newest(Optional<Place> after, int limit) {
        return tables.ledger.values().stream()
                .map(LedgerLine::owed)
                .map(owed -> new Place(owed.planned(), owed.job(), owed.slot()))
                .filter(place -> after.isEmpty() || NEWEST_FIRST.compare(place, after.get()) > 0)
                .sorted(NEWEST_FIRST)
                .limit(limit)
                .toList();
    }
}
