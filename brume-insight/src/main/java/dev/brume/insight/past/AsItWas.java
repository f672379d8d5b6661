package dev.brume.insight.past;

import dev.brume.GateKey;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.RunState;
import dev.brume.history.Backlog;
import dev.brume.history.CalendarView;
import dev.brume.history.CauseRow;
import dev.brume.history.ChangeFilter;
import dev.brume.history.ChangeView;
import dev.brume.history.Ends;
import dev.brume.history.Erasure;
import dev.brume.history.Feed;
import dev.brume.history.Gate;
import dev.brume.history.Health;
import dev.brume.history.History;
import dev.brume.history.IdRanges;
import dev.brume.history.JobAccount;
import dev.brume.history.JobFilter;
import dev.brume.history.JobView;
import dev.brume.history.NamedLeaseRow;
import dev.brume.history.NamespaceView;
import dev.brume.history.NoticeFigures;
import dev.brume.history.NoticeFilter;
import dev.brume.history.NoticeRow;
import dev.brume.history.OneOffFilter;
import dev.brume.history.OneOffView;
import dev.brume.history.Past;
import dev.brume.history.Pause;
import dev.brume.history.Retention;
import dev.brume.history.RollUp;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.history.Seal;
import dev.brume.history.SealHead;
import dev.brume.history.SealedKind;
import dev.brume.history.SealedRow;
import dev.brume.history.SessionRow;
import dev.brume.history.SessionView;
import dev.brume.history.SignInRow;
import dev.brume.history.SpanView;
import dev.brume.history.Standing;
import dev.brume.history.Starts;
import dev.brume.history.TellingRow;
import dev.brume.history.Timeframe;
import dev.brume.history.TokenRow;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.UUID;
import java.util.function.Consumer;
import java.util.function.Predicate;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * The record as it stood at an instant: definitions by version, runs, sessions, pauses and gates; everything else as it stands now.
 *
 * <p>It is worked out of what is on record now, as far as retention has kept it:
 *
 * <ul>
 *   <li>A run that was about to be planned stands as {@code PLANNED} from its planned instant on; what it said of its progress is
 *       gone.
 *   <li>How the last run of a job ended, and what was live of it, is told by its fifty newest runs before the instant.
 *   <li>Of pauses, those that were in force are known; those that were planned then are not.
 *   <li>Of a session's lease, only the last renewal is known: one that lived on has its lease as of a renewal at the instant.
 * </ul>
 *
 * <p>Confined to one thread, and meant to be asked a few questions.
 *
 * @since 0.1.0
 */
public final class AsItWas implements History {
    private static final int PAGE = 1000;

    /** How many pages of runs are read at most for one question. */
    private static final int MOST_PAGES = 20;

    private final History history;
    private final Past past;
    private final Instant at;
    private final Renamings renamings;
    private @Nullable PastJobs jobs;
    private @Nullable List<RunView> live;

    private AsItWas(History history, Instant at) {
        this.history = history;
        this.at = at;
        this.past = history.past(at);
        this.renamings = Renamings.since(history, at.plus(1, ChronoUnit.MICROS));
    }

    /**
     * {@return the record as it stood at an instant}
     *
     * @param history that is read
     * @param at the instant; what began at it is in force, what ended at it is not
     * @throws IllegalArgumentException if it is still to come
     */
    public static AsItWas of(History history, Instant at) {
        if (at.isAfter(history.now())) {
            throw new IllegalArgumentException(at + " is still to come");
        }
        return new AsItWas(history, at);
    }

    @Override
    public Instant now() {
        return at;
    }

    private Instant after() {
        return at.plus(1, ChronoUnit.MICROS);
    }

    private Instant end(Optional<Instant> wanted) {
        return wanted.filter(after()::isAfter).orElse(after());
    }

    // Jobs.

    private PastJobs pastJobs() {
        PastJobs known = jobs;
        if (known == null) {
            known = new PastJobs(history, past, renamings);
            jobs = known;
        }
        return known;
    }

    @Override
    public List<JobView> jobs() {
        return jobs(JobFilter.first(Integer.MAX_VALUE));
    }

    @Override
    public List<JobView> watchedJobs() {
        return jobs().stream().filter(view -> view.job().isWatched()).toList();
    }

    @Override
    public List<JobView> jobs(JobFilter filter) {
        return pastJobs().find(filter);
    }

    @Override
    public long jobCount() {
        return pastJobs().count();
    }

    @Override
    public Optional<JobView> job(JobName key) {
        return pastJobs().job(key);
    }

    @Override
    public Optional<Job> version(JobName job, int number) {
        return history.version(pastJobs().nameNow(job).orElse(job), number);
    }

    // Runs.

    @Override
    public List<RunView> runs(RunFilter filter) {
        return read(filter, fits(filter), filter.limit());
    }

    /** Reads runs page by page, by what time does not change of them, until there are as many as are wanted. */
    private List<RunView> read(RunFilter filter, Predicate<RunView> wanted, int limit) {
        List<RunView> found = new ArrayList<>(skippedBefore(filter, wanted));
        Optional<RunFilter.Below> below = filter.below();
        for (int page = 0; page < MOST_PAGES && found.size() < limit; page++) {
            RunFilter plain = lasting(filter).until(end(filter.until()));
            List<RunView> runs = history.runs(below.map(plain::below).orElse(plain));
            runs.stream().flatMap(run -> then(run).stream()).filter(wanted).forEach(found::add);
            if (runs.size() < PAGE) {
                break;
            }
            RunView last = runs.get(runs.size() - 1);
            below = Optional.of(new RunFilter.Below(last.owed().planned(), last.id()));
        }
        return found.stream().limit(limit).toList();
    }

    /** What was still to come and had been skipped by order is on record from the order on. */
    private List<RunView> skippedBefore(RunFilter filter, Predicate<RunView> wanted) {
        Instant from = filter.from().filter(after()::isBefore).orElse(after());
        if (filter.until().filter(until -> !until.isAfter(from)).isPresent()) {
            return List.of();
        }
        RunFilter plain = lasting(filter).from(from).withOutcome(Outcome.SKIPPED);
        plain = filter.until().map(plain::until).orElse(plain);
        return history.runs(filter.below().map(plain::below).orElse(plain)).stream()
                .filter(run -> run.recordedAt().filter(end -> !end.isAfter(at)).isPresent())
                .map(run -> run.named(renamings.before(run.job())))
                .filter(wanted)
                .toList();
    }

    private Optional<RunView> then(RunView run) {
        return PastRun.at(run, at, past.waiting()).map(was -> was.named(renamings.before(was.job())));
    }

    private RunFilter lasting(RunFilter filter) {
        RunFilter plain = RunFilter.newest(PAGE).within(filter.namespaces());
        plain = filter.job()
                .map(name -> pastJobs().nameNow(name).orElse(name))
                .map(plain::of)
                .orElse(plain);
        plain = filter.from().map(plain::from).orElse(plain);
        plain = filter.tag().map(plain::withTag).orElse(plain);
        plain = filter.origin().map(plain::withOrigin).orElse(plain);
        return filter.key().map(plain::withKey).orElse(plain);
    }

    /** What may have been otherwise then. */
    private static Predicate<RunView> fits(RunFilter filter) {
        return run -> filter.outcome()
                        .equals(run.outcome().filter(end -> filter.outcome().isPresent()))
                && filter.state()
                        .equals(run.state().filter(state -> filter.state().isPresent()))
                && filter.reason()
                        .equals(run.reason().filter(why -> filter.reason().isPresent()))
                && filter.instance()
                        .filter(name -> run.lastAttempt()
                                .filter(attempt -> attempt.instance().equals(name))
                                .isEmpty())
                        .isEmpty()
                && filter.error()
                        .filter(text -> run.outcome().isEmpty()
                                || run.lastAttempt()
                                        .flatMap(attempt -> attempt.error())
                                        .filter(error -> error.contains(text))
                                        .isEmpty())
                        .isEmpty();
    }

    @Override
    public Optional<RunView> run(long id) {
        return history.run(id).flatMap(this::then);
    }

    private List<RunView> live() {
        List<RunView> known = live;
        if (known == null) {
            known = read(RunFilter.newest(Integer.MAX_VALUE), run -> run.state().isPresent(), Integer.MAX_VALUE);
            live = known;
        }
        return known;
    }

    @Override
    public List<SpanView> spans(RunFilter filter) {
        return history.spans(filter.until(end(filter.until())));
    }

    // Instances.

    @Override
    public List<SessionView> sessions(boolean ended) {
        Map<UUID, Integer> runs = new HashMap<>();
        live().stream()
                .filter(run -> run.state().filter(RunState.RUNNING::equals).isPresent())
                .forEach(run -> runs.merge(run.lastAttempt().orElseThrow().session(), 1, Integer::sum));
        List<SessionView> found = new ArrayList<>();
        past.sessions().forEach(row -> found.add(new SessionView(renewed(row), runs.getOrDefault(row.id(), 0))));
        if (ended) {
            List<UUID> lived = past.sessions().stream().map(SessionRow::id).toList();
            history.sessions(/* ended= */ true).stream()
                    .filter(view -> !view.row().openedAt().isAfter(at))
                    .filter(view -> !lived.contains(view.row().id()))
                    .map(view -> new SessionView(view.row(), 0))
                    .forEach(found::add);
        }
        found.sort((one, other) -> other.row().openedAt().compareTo(one.row().openedAt()));
        return found;
    }

    private SessionRow renewed(SessionRow row) {
        if (!row.renewedAt().isAfter(at)) {
            return row;
        }
        return row.renewed(
                at, at.plus(Duration.between(row.renewedAt(), row.leaseUntil())), /* then= */ Optional.empty());
    }

    // Pauses, gates, changes.

    @Override
    public List<Pause> pauses() {
        return past.pauses();
    }

    @Override
    public List<Pause> plannedPauses() {
        return List.of();
    }

    @Override
    public List<Gate> gates() {
        Map<GateKey, Integer> used = new HashMap<>();
        live().stream()
                .filter(run -> run.state().filter(RunState.WAITING::equals).isEmpty())
                .flatMap(run -> pastJobs().definition(run).stream())
                .flatMap(job -> job.gates().stream())
                .forEach(key -> used.merge(key, 1, Integer::sum));
        Map<GateKey, Gate> now = history.gates().stream().collect(Collectors.toMap(Gate::key, gate -> gate));
        return past.caps().entrySet().stream()
                .filter(each -> each.getKey().kind() != GateKey.Kind.ONE_OFF)
                .map(each -> new Gate(
                        each.getKey(),
                        each.getValue(),
                        used.getOrDefault(each.getKey(), 0),
                        Optional.ofNullable(now.get(each.getKey())).flatMap(Gate::rate),
                        Starts.NONE,
                        Optional.empty()))
                .toList();
    }

    @Override
    public List<ChangeView> changes(ChangeFilter filter) {
        return history.changes(filter.until(end(filter.until())));
    }

    @Override
    public Past past(Instant earlier) {
        return history.past(earlier.isAfter(at) ? at : earlier);
    }

    // As it stands now.

    @Override
    public List<CalendarView> calendars() {
        return history.calendars();
    }

    @Override
    public Standing standing(Collection<Long> runs) {
        return history.standing(runs);
    }

    @Override
    public List<OneOffView> oneOffs(OneOffFilter filter) {
        return history.oneOffs(filter);
    }

    @Override
    public Optional<OneOffView> oneOff(long run) {
        return history.oneOff(run);
    }

    @Override
    public Optional<OneOffView> oneOff(JobName job, String key) {
        return history.oneOff(job, key);
    }

    @Override
    public void accounts(Timeframe frame, Consumer<JobAccount> receiver) {
        history.accounts(frame, receiver);
    }

    @Override
    public RollUp rollUp(Timeframe frame) {
        return history.rollUp(frame);
    }

    @Override
    public Map<Long, Ends> ends(Timeframe frame) {
        return history.ends(frame);
    }

    @Override
    public OptionalLong revision(String source) {
        return history.revision(source);
    }

    @Override
    public List<RunView> lines(long beyond, IdRanges open, int limit) {
        return history.lines(beyond, open, limit);
    }

    @Override
    public List<ChangeView> changeLines(long beyond, IdRanges open, int limit) {
        return history.changeLines(beyond, open, limit);
    }

    @Override
    public List<SealedRow> sealedRows(SealedKind kind, long beyond, IdRanges open, int limit) {
        return history.sealedRows(kind, beyond, open, limit);
    }

    @Override
    public Optional<Erasure> erasure(long run) {
        return history.erasure(run);
    }

    @Override
    public List<Erasure> erasures(long beyond, int limit) {
        return history.erasures(beyond, limit);
    }

    @Override
    public Feed feed() {
        return history.feed();
    }

    @Override
    public SealHead sealHead() {
        return history.sealHead();
    }

    @Override
    public List<Seal> seals(long beyond, int limit) {
        return history.seals(beyond, limit);
    }

    @Override
    public Map<JobName, JobName> renamed(Collection<JobName> names) {
        return history.renamed(names);
    }

    @Override
    public List<NamespaceView> namespaces() {
        return history.namespaces();
    }

    @Override
    public Retention retention() {
        return history.retention();
    }

    @Override
    public Backlog backlog() {
        return history.backlog();
    }

    @Override
    public List<NamedLeaseRow> leases() {
        return history.leases();
    }

    @Override
    public List<TellingRow> tellings() {
        return history.tellings();
    }

    /** What goes on is about now. */
    @Override
    public List<CauseRow> causes(boolean over, int limit) {
        return history.causes(over, limit);
    }

    @Override
    public List<NoticeRow> notices(NoticeFilter filter) {
        return history.notices(filter);
    }

    @Override
    public NoticeFigures noticeFigures() {
        return history.noticeFigures();
    }

    @Override
    public List<TokenRow> tokens() {
        return history.tokens();
    }

    @Override
    public Optional<TokenRow> token(String digest) {
        return history.token(digest);
    }

    @Override
    public Optional<SignInRow> signIn(String digest) {
        return history.signIn(digest);
    }

    @Override
    public Health health(Instant dueBefore) {
        return history.health(dueBefore);
    }
}
