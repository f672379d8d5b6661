package dev.brume.cli.desk;

import dev.brume.CalendarName;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.cli.desk.Server.Address;
import dev.brume.definitions.ExportCursor;
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
import dev.brume.history.JobOrder;
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
import dev.brume.history.SessionView;
import dev.brume.history.SignInRow;
import dev.brume.history.SpanView;
import dev.brume.history.Standing;
import dev.brume.history.TellingRow;
import dev.brume.history.Timeframe;
import dev.brume.history.TokenRow;
import dev.brume.schedule.DayCalendar;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.function.BiFunction;
import java.util.function.Consumer;
import java.util.function.Function;
import java.util.function.Predicate;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * What is on record, as a server tells it: what its {@code /api/v1} has resources of. What is worked out of the record is asked for as
 * a whole, see {@link ServerLookout}; the look-ups that it rests on are not to be had here.
 */
final class ServerHistory implements History {
    private static final int PAGE = 1000;

    private final Server server;
    private final Optional<Instant> asOf;
    private @Nullable Map<CalendarName, DayCalendar> days;

    /** @param asOf as of when it is asked for; how it stands now if empty */
    ServerHistory(Server server, Optional<Instant> asOf) {
        this.server = server;
        this.asOf = asOf;
    }

    private Optional<Seen> maybe(Address address) {
        try {
            return Optional.of(server.get(address).seen());
        } catch (Refused e) {
            if (e.status() == 404) {
                return Optional.empty();
            }
            throw e;
        }
    }

    private <T> List<T> all(String list, Function<Seen, T> reading) {
        return server.get(Address.of(list)).list().stream().map(reading).toList();
    }

    /** Reads a list page by page, until there is as much as is wanted. */
    private <T> List<T> pages(
            int most, Function<Seen, T> reading, BiFunction<Optional<T>, Integer, Address> page, Predicate<T> wanted) {
        List<T> found = new ArrayList<>();
        Optional<T> last = Optional.empty();
        while (found.size() < most) {
            int limit = Math.min(PAGE, most - found.size());
            List<T> next = server.get(page.apply(last, limit).with("limit", limit)).list().stream()
                    .map(reading)
                    .toList();
            next.stream().filter(wanted).forEach(found::add);
            if (next.size() < limit) {
                return found;
            }
            last = Optional.of(next.get(next.size() - 1));
        }
        return found;
    }

    @Override
    public Instant now() {
        return asOf.orElseGet(() -> server.get(Address.of("self")).seen().instant("now"));
    }

    // Jobs.

    private JobView job(Seen seen) {
        return Records.job(seen, this::days);
    }

    private Map<CalendarName, DayCalendar> days() {
        Map<CalendarName, DayCalendar> known = days;
        if (known == null) {
            known = new HashMap<>();
            for (CalendarView view : calendars()) {
                known.put(view.row().name(), view.row().days());
            }
            days = known;
        }
        return known;
    }

    @Override
    public List<JobView> jobs() {
        return jobs(JobFilter.first(Integer.MAX_VALUE));
    }

    @Override
    public List<JobView> jobs(JobFilter filter) {
        return pages(
                filter.limit(),
                this::job,
                (last, limit) -> Address.of("jobs")
                        .with("asOf", asOf)
                        .with("name", filter.name())
                        .with("namespace", only(filter.namespaces()))
                        .with("tag", filter.tag())
                        .with("state", filter.failing() ? "FAILING" : filter.paused() ? "PAUSED" : null)
                        .with("followedBy", filter.followedBy())
                        .with("sort", filter.order() == JobOrder.NAME ? null : filter.order())
                        .with("after", last.map(JobView::name).or(filter::after)),
                filter.test());
    }

    private static Optional<String> only(Collection<String> namespaces) {
        return namespaces.size() == 1 ? Optional.of(namespaces.iterator().next()) : Optional.empty();
    }

    @Override
    public long jobCount() {
        return namespaces().stream().mapToLong(NamespaceView::jobs).sum();
    }

    @Override
    public Optional<JobView> job(JobName key) {
        return maybe(Address.of("jobs", key.namespace(), key.name()).with("asOf", asOf))
                .map(this::job);
    }

    @Override
    public Optional<Job> version(JobName job, int number) {
        return maybe(Address.of("jobs", job.namespace(), job.name(), "versions", String.valueOf(number)))
                .map(seen -> Records.definition(job, seen.whole()));
    }

    @Override
    public OptionalLong revision(String source) {
        return server.get(Address.of("revisions").with("source", source))
                .seen()
                .maybeNumber("revision")
                .map(OptionalLong::of)
                .orElse(OptionalLong.empty());
    }

    @Override
    public Map<JobName, JobName> renamed(Collection<JobName> names) {
        Map<JobName, JobName> renamed = new HashMap<>();
        for (JobName name : names) {
            try {
                server.get(Address.of("jobs", name.namespace(), name.name()));
            } catch (Refused e) {
                e.about("renamedTo").map(String::valueOf).map(JobName::parse).ifPresent(now -> renamed.put(name, now));
            }
        }
        return renamed;
    }

    @Override
    public List<CalendarView> calendars() {
        return all("calendars", Records::calendar);
    }

    @Override
    public List<NamespaceView> namespaces() {
        return all("namespaces", Records::namespace);
    }

    // Runs.

    @Override
    public List<RunView> runs(RunFilter filter) {
        return pages(
                filter.limit(),
                Records::run,
                (last, limit) -> chosen(Address.of("runs").with("asOf", asOf), filter)
                        .with(
                                "below",
                                last.map(RunView::id).or(() -> filter.below().map(RunFilter.Below::run))),
                run -> true);
    }

    private static Address chosen(Address address, RunFilter filter) {
        Choice.of(filter).forEach(address::with);
        return address;
    }

    @Override
    public Optional<RunView> run(long id) {
        return maybe(Address.of("runs", String.valueOf(id)).with("asOf", asOf)).map(Records::run);
    }

    @Override
    public List<SpanView> spans(RunFilter filter) {
        return server
                .get(chosen(Address.of("spans"), filter).with("limit", Math.min(PAGE, filter.limit())))
                .list()
                .stream()
                .map(Records::span)
                .toList();
    }

    @Override
    public List<RunView> lines(long beyond, IdRanges open, int limit) {
        return exported(new ExportCursor("ledger", beyond, open), limit)
                .map(Records::run)
                .toList();
    }

    @Override
    public List<ChangeView> changeLines(long beyond, IdRanges open, int limit) {
        return exported(new ExportCursor("changes", beyond, open), limit)
                .map(Records::change)
                .toList();
    }

    private Stream<Seen> exported(ExportCursor cursor, int limit) {
        Address address =
                Address.of("exports", cursor.record()).with("after", cursor).with("limit", limit);
        List<Seen> lines = new ArrayList<>();
        try (BufferedReader in = new BufferedReader(
                new InputStreamReader(Server.content(server.open(address)), StandardCharsets.UTF_8))) {
            for (String line = in.readLine(); line != null; line = in.readLine()) {
                lines.add(Seen.parse(line));
            }
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        return lines.stream();
    }

    // One-offs.

    @Override
    public List<OneOffView> oneOffs(OneOffFilter filter) {
        return server
                .get(Address.of("one-offs")
                        .with("namespace", only(filter.namespaces()))
                        .with("job", filter.job())
                        .with("prefix", filter.prefix().isEmpty() ? null : filter.prefix())
                        .with("limit", Math.min(PAGE, filter.limit())))
                .list()
                .stream()
                .map(Records::oneOff)
                .toList();
    }

    @Override
    public Optional<OneOffView> oneOff(long run) {
        try {
            server.get(Address.of("runs", String.valueOf(run)));
            return Optional.empty();
        } catch (Refused e) {
            return e.about("oneOff").map(Seen::of).map(Records::oneOff);
        }
    }

    @Override
    public Optional<OneOffView> oneOff(JobName job, String key) {
        return maybe(Address.of("jobs", job.namespace(), job.name(), "one-offs", key))
                .map(Records::oneOff);
    }

    // All else.

    @Override
    public List<ChangeView> changes(ChangeFilter filter) {
        return pages(
                filter.limit(),
                Records::change,
                (last, limit) -> Address.of("changes")
                        .with("namespace", only(filter.namespaces()))
                        .with("job", filter.job())
                        .with("kind", filter.kind())
                        .with("who", filter.who())
                        .with("from", filter.from())
                        .with("until", filter.until())
                        .with("below", last.map(ChangeView::id).or(filter::before)),
                line -> true);
    }

    @Override
    public List<Pause> pauses() {
        return pauses(/* inForce= */ true);
    }

    @Override
    public List<Pause> plannedPauses() {
        return pauses(/* inForce= */ false);
    }

    private List<Pause> pauses(boolean inForce) {
        return server.get(Address.of("pauses").with("asOf", asOf)).list().stream()
                .filter(seen -> seen.flag("inForce") == inForce)
                .map(Records::pause)
                .toList();
    }

    @Override
    public Retention retention() {
        return Records.retention(server.get(Address.of("retention")).seen());
    }

    @Override
    public List<Gate> gates() {
        return server.get(Address.of("limits").with("asOf", asOf)).list().stream()
                .map(Records::gate)
                .toList();
    }

    @Override
    public List<NamedLeaseRow> leases() {
        return all("leases", Records::lease);
    }

    @Override
    public List<TellingRow> tellings() {
        return all("channels", Records::telling);
    }

    @Override
    public List<CauseRow> causes(boolean over, int limit) {
        return server.get(Address.of("causes").with("over", over).with("limit", Math.min(limit, PAGE))).list().stream()
                .map(Records::cause)
                .toList();
    }

    @Override
    public List<NoticeRow> notices(NoticeFilter filter) {
        return pages(
                filter.limit(),
                Records::notice,
                (last, limit) -> {
                    Address address = Address.of("notices");
                    if (filter.states().size() == 1) {
                        address.with("state", filter.states().iterator().next());
                    }
                    filter.cause().ifPresent(key -> address.with("cause", key));
                    filter.channel().ifPresent(name -> address.with("channel", name));
                    last.map(NoticeRow::number).or(filter::before).ifPresent(number -> address.with("below", number));
                    return address;
                },
                filter::letsThrough);
    }

    @Override
    public NoticeFigures noticeFigures() {
        return Records.noticeFigures(
                server.get(Address.of("notices", "figures")).seen());
    }

    @Override
    public List<JobView> watchedJobs() {
        return jobs().stream().filter(view -> view.job().isWatched()).toList();
    }

    @Override
    public List<TokenRow> tokens() {
        return all("tokens", Records::token);
    }

    @Override
    public List<SessionView> sessions(boolean ended) {
        return server.get(Address.of("instances").with("asOf", asOf).with("all", ended)).list().stream()
                .map(Records::session)
                .toList();
    }

    @Override
    public SealHead sealHead() {
        Seen head = server.get(Address.of("seals", "head")).seen();
        return new SealHead(head.number("number"), head.text("digest"), Map.of());
    }

    // What the record itself is needed for.

    private UnsupportedOperationException notHere() {
        return new UnsupportedOperationException("not to be had over HTTP");
    }

    @Override
    public Standing standing(Collection<Long> runs) {
        throw notHere();
    }

    @Override
    public void accounts(Timeframe frame, Consumer<JobAccount> receiver) {
        throw notHere();
    }

    @Override
    public RollUp rollUp(Timeframe frame) {
        throw notHere();
    }

    @Override
    public Map<Long, Ends> ends(Timeframe frame) {
        throw notHere();
    }

    @Override
    public List<SealedRow> sealedRows(SealedKind kind, long beyond, IdRanges open, int limit) {
        throw notHere();
    }

    @Override
    public Optional<Erasure> erasure(long run) {
        throw notHere();
    }

    @Override
    public List<Erasure> erasures(long after, int limit) {
        throw notHere();
    }

    @Override
    public Past past(Instant at) {
        throw notHere();
    }

    @Override
    public Feed feed() {
        throw notHere();
    }

    @Override
    public List<Seal> seals(long after, int limit) {
        throw notHere();
    }

    @Override
    public Backlog backlog() {
        throw notHere();
    }

    @Override
    public Optional<TokenRow> token(String digest) {
        throw notHere();
    }

    @Override
    public Optional<SignInRow> signIn(String digest) {
        throw notHere();
    }

    @Override
    public Health health(Instant dueBefore) {
        throw notHere();
    }
}
