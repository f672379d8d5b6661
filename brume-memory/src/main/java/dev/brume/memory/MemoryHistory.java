package dev.brume.memory;

import dev.brume.Attempt;
import dev.brume.CalendarName;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.RunResult;
import dev.brume.RunState;
import dev.brume.history.Backlog;
import dev.brume.history.CalendarRow;
import dev.brume.history.CalendarView;
import dev.brume.history.CauseRow;
import dev.brume.history.Change;
import dev.brume.history.ChangeFilter;
import dev.brume.history.ChangeView;
import dev.brume.history.Ends;
import dev.brume.history.Erasure;
import dev.brume.history.Feed;
import dev.brume.history.FeedPage;
import dev.brume.history.FeedPosition;
import dev.brume.history.Gate;
import dev.brume.history.Health;
import dev.brume.history.History;
import dev.brume.history.IdRanges;
import dev.brume.history.JobAccount;
import dev.brume.history.JobFilter;
import dev.brume.history.JobOrder;
import dev.brume.history.JobRow;
import dev.brume.history.JobView;
import dev.brume.history.NamedLeaseRow;
import dev.brume.history.NamespaceView;
import dev.brume.history.NoticeFigures;
import dev.brume.history.NoticeFilter;
import dev.brume.history.NoticeRow;
import dev.brume.history.OneOffFilter;
import dev.brume.history.OneOffView;
import dev.brume.history.Output;
import dev.brume.history.Past;
import dev.brume.history.Pause;
import dev.brume.history.Retention;
import dev.brume.history.RollUp;
import dev.brume.history.RunFilter;
import dev.brume.history.RunRow;
import dev.brume.history.RunView;
import dev.brume.history.Seal;
import dev.brume.history.SealHead;
import dev.brume.history.SealedKind;
import dev.brume.history.SealedRow;
import dev.brume.history.SessionRow;
import dev.brume.history.SessionView;
import dev.brume.history.SignInRow;
import dev.brume.history.Span;
import dev.brume.history.SpanView;
import dev.brume.history.Standing;
import dev.brume.history.SummedHours;
import dev.brume.history.SummedStretch;
import dev.brume.history.TellingRow;
import dev.brume.history.Timeframe;
import dev.brume.history.TokenRow;
import dev.brume.history.VersionKey;
import dev.brume.spi.LedgerLine;
import dev.brume.spi.OneOffRow;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.EnumMap;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalInt;
import java.util.OptionalLong;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.function.Consumer;
import java.util.function.Predicate;
import java.util.function.Supplier;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** The reading side on maps. */
final class MemoryHistory implements History {
    private final Tables tables;
    private final Supplier<Instant> clock;

    MemoryHistory(Tables tables, Supplier<Instant> clock) {
        this.tables = tables;
        this.clock = clock;
    }

    @Override
    public Instant now() {
        return clock.get();
    }

    @Override
    public List<JobView> jobs() {
        synchronized (tables) {
            return tables.jobs.values().stream()
                    .filter(Tables.StoredJob::live)
                    .map(this::view)
                    .sorted(JobOrder.NAME.comparator())
                    .toList();
        }
    }

    @Override
    public List<JobView> watchedJobs() {
        return jobs().stream().filter(view -> view.job().isWatched()).toList();
    }

    @Override
    public List<JobView> jobs(JobFilter filter) {
        return jobs().stream()
                .filter(filter.behind(this::job))
                .filter(filter.test())
                .sorted(filter.order().comparator())
                .limit(filter.limit())
                .toList();
    }

    @Override
    public long jobCount() {
        synchronized (tables) {
            return tables.jobs.values().stream().filter(Tables.StoredJob::live).count();
        }
    }

    @Override
    public Optional<JobView> job(JobName key) {
        synchronized (tables) {
            return tables.jobs.live(key).map(this::view);
        }
    }

    private JobView view(Tables.StoredJob stored) {
        JobRow row = tables.counted(stored);
        return new JobView(row, tables.definition(row), stored.definedAt(), tables.lastEnd(row));
    }

    @Override
    public List<CalendarView> calendars() {
        synchronized (tables) {
            return tables.calendars.values().stream()
                    .map(stored -> new CalendarView(stored.row(), stored.definedAt(), users(stored.row())))
                    .toList();
        }
    }

    private int users(CalendarRow calendar) {
        return (int) tables.jobs.values().stream()
                .filter(Tables.StoredJob::live)
                .map(stored -> tables.definition(stored.row()))
                .filter(job -> job.calendars().stream()
                        .anyMatch(used -> CalendarName.in(job.name().namespace(), used.name())
                                .equals(calendar.name())))
                .count();
    }

    @Override
    public List<RunView> runs(RunFilter filter) {
        synchronized (tables) {
            return Stream.concat(
                            tables.runs.values().stream().map(this::view),
                            tables.ledger.values().stream().map(this::view))
                    .filter(run -> filter.job().isEmpty() || filter.job().get().equals(run.job()))
                    .filter(run -> within(filter.namespaces(), run.job()))
                    .filter(run ->
                            filter.outcome().isEmpty() || filter.outcome().equals(run.outcome()))
                    .filter(run -> filter.state().isEmpty() || filter.state().equals(run.state()))
                    .filter(run ->
                            filter.from().filter(run.owed().planned()::isBefore).isEmpty())
                    .filter(run -> filter.until()
                            .filter(until -> !run.owed().planned().isBefore(until))
                            .isEmpty())
                    .filter(run -> fitsTheRest(filter, run))
                    .sorted(Comparator.comparing((RunView run) -> run.owed().planned())
                            .thenComparing(RunView::id)
                            .reversed())
                    .limit(filter.limit())
                    .toList();
        }
    }

    private boolean fitsTheRest(RunFilter filter, RunView run) {
        Optional<Attempt> last = run.lastAttempt();
        Optional<String> error = last.flatMap(Attempt::error).map(text -> text.toLowerCase(Locale.ROOT));
        boolean ended = run.outcome().isPresent() || !filter.isOfTheEnded();
        boolean carries = filter.tag()
                .map(tag -> tables.definition(
                                Tables.row(tables.jobs, run.owed().job()).row())
                        .tags()
                        .contains(tag))
                .orElse(true);
        boolean below = filter.below()
                .map(mark -> run.owed().planned().isBefore(mark.planned())
                        || run.owed().planned().equals(mark.planned()) && run.id() < mark.run())
                .orElse(true);
        boolean failed = filter.error()
                .map(text -> error.filter(found -> found.contains(text.toLowerCase(Locale.ROOT)))
                        .isPresent())
                .orElse(true);
        return ended
                && carries
                && below
                && failed
                && fits(filter.reason(), run.reason())
                && fits(filter.instance(), last.map(Attempt::instance))
                && fits(filter.origin(), Optional.of(run.owed().origin()))
                && fits(filter.key(), run.owed().oneOffKey());
    }

    private RunView view(RunRow run) {
        List<Attempt> attempts = new ArrayList<>(run.attempts());
        run.lease()
                .ifPresent(lease -> attempts.add(new Attempt(
                        run.attempt(),
                        Optional.ofNullable(tables.sessions.get(lease.session()))
                                .map(SessionRow::instance)
                                .orElse("unknown"),
                        lease.session(),
                        lease.fence(),
                        lease.since(),
                        Optional.empty(),
                        Optional.empty(),
                        Optional.empty(),
                        Optional.empty())));
        return new RunView(
                run.id(),
                tables.keyOf(run.owed().job()),
                run.owed(),
                run.version(),
                run.lane(),
                run.readyAt(),
                Optional.of(run.state()),
                Optional.ofNullable(tables.progress.get(run.id())),
                Optional.empty(),
                Optional.empty(),
                attempts,
                run.payloadOnRecord(),
                Optional.empty(),
                Optional.empty(),
                outputsOf(run));
    }

    private RunView view(LedgerLine line) {
        return withoutOutput(tables, line).with(outputsOf(line.run()));
    }

    static RunView withoutOutput(Tables tables, LedgerLine line) {
        return new RunView(
                line.run(),
                tables.keyOf(line.owed().job()),
                line.owed(),
                line.version(),
                line.lane(),
                line.readyAt(),
                Optional.empty(),
                Optional.empty(),
                Optional.of(line.outcome()),
                line.reason().map(Reason::name),
                line.attempts(),
                line.payload(),
                line.result(),
                Optional.of(Tables.row(tables.recordedAt, line.run())),
                Map.of());
    }

    /** What the attempt that runs has printed so far, too. */
    private Map<Integer, Output> outputsOf(RunRow run) {
        Map<Integer, Output> outputs = outputsOf(run.id());
        Optional.ofNullable(tables.printed.get(run.id()))
                .filter(note -> run.lease()
                        .filter(lease -> lease.fence() == note.lease().fence())
                        .isPresent())
                .ifPresent(note -> outputs.put(run.attempt(), note.soFar()));
        return outputs;
    }

    private Map<Integer, Output> outputsOf(long run) {
        Map<Integer, Output> outputs = new TreeMap<>();
        tables.outputsOf(run).forEach((key, output) -> outputs.put(key.attempt(), output));
        return outputs;
    }

    @Override
    public Optional<RunView> run(long id) {
        synchronized (tables) {
            return Optional.ofNullable(tables.runs.get(id))
                    .map(this::view)
                    .or(() -> Optional.ofNullable(tables.ledger.get(id)).map(this::view));
        }
    }

    @Override
    public Standing standing(Collection<Long> runs) {
        synchronized (tables) {
            Set<Long> live = new TreeSet<>();
            Map<Long, RunResult> ended = new TreeMap<>();
            for (long run : runs) {
                LedgerLine line = tables.ledger.get(run);
                OneOffRow oneOff = tables.oneOffs.get(run);
                if (tables.runs.containsKey(run) || oneOff != null && !oneOff.made()) {
                    live.add(run);
                } else if (line != null) {
                    RunView view = view(line);
                    Optional<String> error = view.attempts().isEmpty()
                            ? Optional.empty()
                            : view.attempts().get(view.attempts().size() - 1).error();
                    ended.put(run, new RunResult(run, line.outcome(), view.reason(), view.result(), error));
                }
            }
            return new Standing(live, ended);
        }
    }

    @Override
    public List<OneOffView> oneOffs(OneOffFilter filter) {
        return oneOffs(
                view -> filter.job().filter(job -> !view.job().equals(job)).isEmpty()
                        && view.key().startsWith(filter.prefix())
                        && within(filter.namespaces(), view.job())
                        && filter.after().filter(last -> !isAfter(view, last)).isEmpty(),
                filter.limit());
    }

    private static boolean isAfter(OneOffView view, OneOffFilter.After last) {
        int byTime = view.dueAt().compareTo(last.dueAt());
        return byTime > 0 || byTime == 0 && view.run() > last.run();
    }

    private static boolean within(Set<String> namespaces, JobName job) {
        return namespaces.isEmpty() || namespaces.contains(job.namespace());
    }

    private List<OneOffView> oneOffs(Predicate<OneOffView> wanted, int limit) {
        synchronized (tables) {
            return allOneOffs()
                    .filter(view -> !view.made())
                    .filter(wanted)
                    .sorted(Comparator.comparing(OneOffView::dueAt).thenComparing(OneOffView::run))
                    .limit(limit)
                    .toList();
        }
    }

    @Override
    public Optional<OneOffView> oneOff(long run) {
        return oneOffs(view -> view.run() == run, 1).stream().findFirst();
    }

    @Override
    public Optional<OneOffView> oneOff(JobName job, String key) {
        synchronized (tables) {
            return allOneOffs()
                    .filter(view -> view.job().equals(job) && view.key().equals(key))
                    .findFirst();
        }
    }

    private Stream<OneOffView> allOneOffs() {
        return tables.oneOffs.values().stream()
                .filter(row -> Tables.row(tables.jobs, row.oneOff().job()).live())
                .filter(row -> row.oneOff().parent().isEmpty())
                .map(row -> row.view(tables.keyOf(row.oneOff().job())));
    }

    @Override
    public List<SpanView> spans(RunFilter filter) {
        synchronized (tables) {
            return tables.spans.values().stream()
                    .map(span -> new SpanView(tables.keyOf(span.job()), span))
                    .filter(view -> filter.job().isEmpty() || filter.job().get().equals(view.job()))
                    .filter(view -> within(filter.namespaces(), view.job()))
                    .filter(view -> filter.from().isEmpty()
                            || view.span().until().isAfter(filter.from().get()))
                    .filter(view -> filter.until().isEmpty()
                            || view.span().from().isBefore(filter.until().get()))
                    .filter(view ->
                            fits(filter.reason(), Optional.of(view.span().reason())))
                    .sorted(Comparator.comparing((SpanView view) -> view.span().from())
                            .reversed())
                    .limit(filter.limit())
                    .toList();
        }
    }

    @Override
    public void accounts(Timeframe frame, Consumer<JobAccount> receiver) {
        List<JobAccount> accounts = new ArrayList<>();
        synchronized (tables) {
            tables.jobs.values().stream()
                    .filter(stored -> frame.isAbout(stored.row().name()))
                    .filter(stored -> Optional.ofNullable(
                                    tables.droppedAt.get(stored.row().id()))
                            .filter(frame.from()::isAfter)
                            .isEmpty())
                    .forEach(stored -> accounts.add(account(stored, frame)));
        }
        accounts.forEach(receiver);
    }

    private JobAccount account(Tables.StoredJob stored, Timeframe frame) {
        Instant from = frame.from();
        Instant until = frame.until();
        JobRow row = stored.row();
        MemoryRollUp rollUp = new MemoryRollUp(tables);
        Optional<SummedHours> hours = SummedHours.of(frame, new MemoryRetention(tables, this::now).keptFrom(row.id()));
        List<JobAccount.Line> lines = new ArrayList<>();
        tables.runs.values().stream()
                .filter(run -> isWithin(run.owed(), row.id(), from, until))
                .forEach(run -> lines.add(JobAccount.Line.live(run)));
        tables.ledger.values().stream()
                .filter(line -> isWithin(line.owed(), row.id(), from, until))
                .map(LedgerLine::inAccount)
                .filter(line -> hours.filter(in -> rollUp.has(line, in)).isEmpty())
                .forEach(lines::add);
        lines.sort(Comparator.comparing(JobAccount.Line::planned));
        List<JobAccount.Version> versions = new ArrayList<>();
        for (int number = 1; number <= row.version(); number++) {
            VersionKey key = new VersionKey(row.id(), number);
            versions.add(new JobAccount.Version(
                    number,
                    Tables.row(tables.versions, key),
                    Tables.row(tables.versionsFrom, key),
                    Tables.row(tables.versionSources, key)));
        }
        List<Span> spans = tables.spans.values().stream()
                .filter(span -> span.job() == row.id()
                        && span.until().isAfter(from)
                        && span.from().isBefore(until))
                .toList();
        return new JobAccount(
                row.id(),
                row.name(),
                !stored.live(),
                versions,
                new MemoryRetention(tables, this::now).keptFrom(row.id()),
                row.cursor(),
                lines,
                spans,
                hours.map(in -> rollUp.sums(row.id(), in)).orElseGet(List::of));
    }

    private static boolean isWithin(RunRow.Owed owed, long job, Instant from, Instant until) {
        return owed.job() == job
                && !owed.planned().isBefore(from)
                && owed.planned().isBefore(until);
    }

    @Override
    public List<ChangeView> changes(ChangeFilter filter) {
        synchronized (tables) {
            Set<JobName> names = new LinkedHashSet<>();
            filter.job().ifPresent(key -> names.addAll(namesOf(key)));
            List<String> scopes = names.stream()
                    .flatMap(name -> Pause.Scope.wordsCovering(name, tags(name)).stream())
                    .toList();
            return tables.changes.values().stream()
                    .filter(view -> filter.job()
                            .filter(key -> !isAbout(view.change(), names, scopes))
                            .isEmpty())
                    .filter(view -> filter.namespaces().isEmpty()
                            || filter.namespaces().stream().anyMatch(own -> isWithin(view.change(), own)))
                    .filter(view ->
                            fits(filter.kind(), Optional.of(view.change().kind())))
                    .filter(view -> fits(filter.who(), Optional.of(view.change().who())))
                    .filter(view -> filter.from().filter(view.at()::isBefore).isEmpty())
                    .filter(view -> filter.until()
                            .filter(until -> !view.at().isBefore(until))
                            .isEmpty())
                    .filter(view -> filter.before()
                            .filter(before -> view.id() >= before)
                            .isEmpty())
                    .sorted(Comparator.comparing(ChangeView::id).reversed())
                    .limit(filter.limit())
                    .toList();
        }
    }

    private static boolean isWithin(Change change, String namespace) {
        String scope = Pause.Scope.namespace(namespace).toString();
        boolean pause = change.kind().equals("PAUSED") || change.kind().equals("RESUMED");
        return change.job()
                .map(job -> job.namespace().equals(namespace))
                .orElseGet(() ->
                        pause && (change.text().equals(scope) || change.text().startsWith(scope + ", ")));
    }

    /** Its name, and those that it had. */
    private Set<JobName> namesOf(JobName key) {
        Set<JobName> names = new LinkedHashSet<>(Set.of(key));
        tables.jobs.values().stream()
                .map(Tables.StoredJob::row)
                .filter(row -> row.name().equals(key))
                .forEach(row -> names.addAll(tables.formerNamesOf(row.id())));
        return names;
    }

    private static boolean isAbout(Change change, Set<JobName> names, List<String> scopes) {
        boolean pauses = change.kind().equals("PAUSED") || change.kind().equals("RESUMED");
        return change.job().filter(names::contains).isPresent()
                || change.job().isEmpty()
                        && pauses
                        && scopes.stream()
                                .anyMatch(scope -> change.text().equals(scope)
                                        || change.text().startsWith(scope + ", "));
    }

    private List<String> tags(JobName key) {
        return tables.versions.values().stream()
                .filter(job -> job.name().equals(key))
                .flatMap(job -> job.tags().stream())
                .toList();
    }

    private static <T> boolean fits(Optional<T> wanted, Optional<T> found) {
        return wanted.isEmpty() || wanted.equals(found);
    }

    @Override
    public Optional<Job> version(JobName job, int number) {
        return job(job).map(
                        view -> tables.versions.get(new VersionKey(view.row().id(), number)));
    }

    @Override
    public List<NamespaceView> namespaces() {
        synchronized (tables) {
            Map<String, NamespaceView> found = new TreeMap<>();
            tables.allowances.forEach((name, row) -> found.put(name, new NamespaceView(name, 0, 0, Optional.of(row))));
            tables.jobs.values().stream()
                    .filter(Tables.StoredJob::live)
                    .map(Tables.StoredJob::row)
                    .forEach(job -> found.merge(
                            job.name().namespace(),
                            new NamespaceView(job.name().namespace(), 1, job.paused() ? 1 : 0, Optional.empty()),
                            (all, one) -> new NamespaceView(
                                    all.name(), all.jobs() + 1, all.paused() + one.paused(), all.allowance())));
            return List.copyOf(found.values());
        }
    }

    @Override
    public List<Pause> pauses() {
        synchronized (tables) {
            return tables.pauses.values().stream()
                    .filter(pause -> pause.isInForce(now()))
                    .sorted(Tables.PAUSES)
                    .toList();
        }
    }

    @Override
    public Map<JobName, JobName> renamed(Collection<JobName> names) {
        synchronized (tables) {
            Map<JobName, JobName> renamed = new TreeMap<>();
            tables.formerNames.values().stream()
                    .filter(former -> names.contains(former.name())
                            && Tables.row(tables.jobs, former.job()).live()
                            && job(former.name()).isEmpty())
                    .forEach(former -> renamed.put(former.name(), tables.keyOf(former.job())));
            return renamed;
        }
    }

    @Override
    public List<Pause> plannedPauses() {
        synchronized (tables) {
            return tables.pauses.values().stream()
                    .filter(pause -> pause.since().isAfter(now()))
                    .sorted(Tables.PAUSES)
                    .toList();
        }
    }

    @Override
    public Retention retention() {
        synchronized (tables) {
            MemoryRetention steps = new MemoryRetention(tables, this::now);
            return new Retention(
                    steps.total(),
                    steps.floor(),
                    steps.keptFrom(),
                    steps.appliedAt(),
                    steps.jobs(0, Integer.MAX_VALUE));
        }
    }

    @Override
    public List<Gate> gates() {
        synchronized (tables) {
            return List.copyOf(tables.gates.values());
        }
    }

    @Override
    public List<TellingRow> tellings() {
        synchronized (tables) {
            return List.copyOf(tables.tellings.values());
        }
    }

    @Override
    public List<CauseRow> causes(boolean over, int limit) {
        synchronized (tables) {
            Stream<CauseRow> closed = over ? MemoryNotices.causes(tables, cause -> !cause.isOpen()) : Stream.empty();
            return Stream.concat(MemoryNotices.causes(tables, CauseRow::isOpen), closed)
                    .limit(limit)
                    .toList();
        }
    }

    @Override
    public List<NoticeRow> notices(NoticeFilter filter) {
        synchronized (tables) {
            return MemoryNotices.notices(tables, filter);
        }
    }

    @Override
    public NoticeFigures noticeFigures() {
        synchronized (tables) {
            return MemoryNotices.figures(tables);
        }
    }

    @Override
    public List<TokenRow> tokens() {
        synchronized (tables) {
            return new MemoryAccess(tables).tokens();
        }
    }

    @Override
    public Optional<TokenRow> token(String digest) {
        synchronized (tables) {
            return new MemoryAccess(tables).token(digest, now());
        }
    }

    @Override
    public Optional<SignInRow> signIn(String digest) {
        synchronized (tables) {
            return new MemoryAccess(tables).signIn(digest, now());
        }
    }

    @Override
    public List<NamedLeaseRow> leases() {
        synchronized (tables) {
            return List.copyOf(tables.leases.values());
        }
    }

    @Override
    public RollUp rollUp(Timeframe frame) {
        synchronized (tables) {
            MemoryRollUp rollUp = new MemoryRollUp(tables);
            Map<Long, List<SummedStretch>> stretches = new HashMap<>();
            SummedHours.of(frame.inSums(), new MemoryRetention(tables, this::now).keptFrom())
                    .ifPresent(in -> tables.jobs.values().stream()
                            .map(stored -> stored.row().id())
                            .forEach(job -> stretches.put(job, rollUp.sums(job, in))));
            return new RollUp(rollUp.lockReach(), stretches);
        }
    }

    @Override
    public Map<Long, Ends> ends(Timeframe frame) {
        synchronized (tables) {
            Map<Long, List<LedgerLine>> lines = new HashMap<>();
            tables.ledger.values().stream()
                    .filter(line -> frame.holds(line.owed().planned()))
                    .filter(line -> frame.isAbout(tables.keyOf(line.owed().job())))
                    .forEach(line -> lines.computeIfAbsent(line.owed().job(), id -> new ArrayList<>())
                            .add(line));
            Map<Long, Ends> ends = new HashMap<>();
            lines.forEach((id, own) -> ends.put(id, sum(own)));
            return ends;
        }
    }

    private static Ends sum(List<LedgerLine> lines) {
        Map<Outcome, Long> outcomes = new EnumMap<>(Outcome.class);
        lines.forEach(line -> outcomes.merge(line.outcome(), 1L, Long::sum));
        List<Duration> took = lines.stream()
                .filter(line -> !line.attempts().isEmpty())
                .map(line -> line.attempts().get(line.attempts().size() - 1))
                .flatMap(attempt -> attempt.endedAt().stream().map(end -> Duration.between(attempt.startedAt(), end)))
                .toList();
        Optional<Duration> mean = took.isEmpty()
                ? Optional.empty()
                : Optional.of(
                        took.stream().reduce(Duration.ZERO, Duration::plus).dividedBy(took.size()));
        return new Ends(outcomes, mean);
    }

    @Override
    public List<RunView> lines(long beyond, IdRanges open, int limit) {
        synchronized (tables) {
            return seals().lines(beyond, open, limit);
        }
    }

    @Override
    public List<ChangeView> changeLines(long beyond, IdRanges open, int limit) {
        synchronized (tables) {
            return seals().changes(beyond, open, limit);
        }
    }

    @Override
    public List<SealedRow> sealedRows(SealedKind kind, long beyond, IdRanges open, int limit) {
        synchronized (tables) {
            return seals().rows(kind, beyond, open, limit);
        }
    }

    private MemorySeals seals() {
        return new MemorySeals(tables, line -> withoutOutput(tables, line));
    }

    @Override
    public Optional<Erasure> erasure(long run) {
        synchronized (tables) {
            return Optional.ofNullable(tables.erasures.get(run));
        }
    }

    @Override
    public List<Erasure> erasures(long after, int limit) {
        synchronized (tables) {
            return tables.erasures.tailMap(after, false).values().stream()
                    .limit(limit)
                    .toList();
        }
    }

    @Override
    public Past past(Instant at) {
        synchronized (tables) {
            return tables.past(at);
        }
    }

    @Override
    public Feed feed() {
        MemoryFeed rows = new MemoryFeed(tables, this::now);
        return new Feed() {
            @Override
            public FeedPosition end() {
                synchronized (tables) {
                    return rows.end();
                }
            }

            @Override
            public FeedPage after(FeedPosition position, int limit) {
                synchronized (tables) {
                    return rows.after(position, limit);
                }
            }

            @Override
            public boolean needsCare(Duration listened) {
                synchronized (tables) {
                    return rows.needsCare(listened);
                }
            }
        };
    }

    @Override
    public SealHead sealHead() {
        synchronized (tables) {
            return seals().lockHead();
        }
    }

    @Override
    public List<Seal> seals(long after, int limit) {
        synchronized (tables) {
            return tables.seals.tailMap(after, false).values().stream()
                    .limit(limit)
                    .toList();
        }
    }

    @Override
    public OptionalLong revision(String source) {
        synchronized (tables) {
            Long number = tables.revisions.get(source);
            return number == null ? OptionalLong.empty() : OptionalLong.of(number);
        }
    }

    @Override
    public Health health(Instant dueBefore) {
        synchronized (tables) {
            return new Health(
                    "memory",
                    OptionalInt.empty(),
                    0,
                    tables.notes.getOrDefault("tzdata", ""),
                    List.of(),
                    List.of(),
                    List.of(),
                    List.of());
        }
    }

    @Override
    public Backlog backlog() {
        synchronized (tables) {
            Instant now = now();
            Map<String, Map<RunState, List<RunRow>>> byLane = tables.runs.values().stream()
                    .collect(Collectors.groupingBy(
                            RunRow::lane,
                            TreeMap::new,
                            Collectors.groupingBy(RunRow::state, TreeMap::new, Collectors.toList())));
            List<Backlog.Lane> lanes = new ArrayList<>();
            byLane.forEach((lane, states) -> states.forEach((state, runs) -> lanes.add(new Backlog.Lane(
                    lane,
                    state,
                    runs.size(),
                    runs.stream().filter(run -> !run.readyAt().isAfter(now)).count(),
                    runs.stream().map(RunRow::readyAt).min(Instant::compareTo)))));
            List<Instant> unplanned = Stream.concat(
                            tables.jobs.dueFrom(Instant.MIN).flatMap(job -> job.row().nextAt().stream()),
                            tables.oneOffs.values().stream()
                                    .filter(stored -> !stored.made())
                                    .map(stored -> stored.oneOff().dueAt()))
                    .filter(due -> !due.isAfter(now))
                    .toList();
            return new Backlog(now, lanes, unplanned.size(), unplanned.stream().min(Instant::compareTo), (int)
                    tables.sessions.values().stream()
                            .filter(row -> row.state() != SessionRow.State.ENDED && !row.lapsedAt(now))
                            .count());
        }
    }

    @Override
    public List<SessionView> sessions(boolean ended) {
        synchronized (tables) {
            return tables.sessions.values().stream()
                    .filter(row -> ended || row.state() != SessionRow.State.ENDED)
                    .map(row -> new SessionView(row, (int) tables.runs.values().stream()
                            .filter(run -> run.lease()
                                    .filter(lease -> lease.session().equals(row.id()))
                                    .isPresent())
                            .count()))
                    .sorted(Comparator.comparing(
                                    (SessionView view) -> view.row().openedAt())
                            .reversed())
                    .toList();
        }
    }
}
