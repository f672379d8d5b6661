package dev.brume.definitions;

import com.fasterxml.jackson.jr.ob.JSON;
import dev.brume.Attempt;
import dev.brume.Event;
import dev.brume.GateKey;
import dev.brume.Keep;
import dev.brume.Rate;
import dev.brume.history.AfterEnd;
import dev.brume.history.AllowanceRow;
import dev.brume.history.CalendarView;
import dev.brume.history.CauseRow;
import dev.brume.history.Change;
import dev.brume.history.ChangeView;
import dev.brume.history.Erased;
import dev.brume.history.Erasure;
import dev.brume.history.FeedEvent;
import dev.brume.history.Gate;
import dev.brume.history.JobView;
import dev.brume.history.NamedLeaseRow;
import dev.brume.history.NamespaceView;
import dev.brume.history.NoticeFigures;
import dev.brume.history.NoticeRow;
import dev.brume.history.NoticeState;
import dev.brume.history.OneOffView;
import dev.brume.history.Pause;
import dev.brume.history.Retention;
import dev.brume.history.RunView;
import dev.brume.history.SessionView;
import dev.brume.history.SpanView;
import dev.brume.history.TellingRow;
import dev.brume.history.TokenRow;
import dev.brume.history.Vitals;
import dev.brume.internal.document.AllowanceDocument;
import dev.brume.internal.document.CalendarDocument;
import dev.brume.internal.document.JobDocument;
import dev.brume.internal.document.PinsDocument;
import dev.brume.internal.document.TellingDocument;
import dev.brume.notice.Notice;
import dev.brume.schedule.DayCalendar;
import dev.brume.schedule.Occurrence;
import dev.brume.spi.Pins;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.format.DateTimeFormatter;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/**
 * The one vocabulary in which programs are told what is on record: for {@code --format json}, exports, events and HTTP.
 *
 * <p>Members are in camel case and in a stated order; instants are in UTC; what is not known is null and not left out. What
 * numbers a run, and fences, are texts, since a fence may pass what a reader of JSON holds exactly (RFC 8259, section 6).
 * {@link #schema} describes each.
 *
 * @since 0.1.0
 */
public final class Views {
    private static final DateTimeFormatter LOCAL = DateTimeFormatter.ofPattern("uuuu-MM-dd'T'HH:mm:ss");

    /** Members whose numbers name something. */
    private static final Set<String> NAMING = Set.of("run", "fence", "follows", "rerunOf");

    /** Facts of events that are numbers. */
    private static final Set<String> COUNTED = Set.of("attempt", "count", "percent");

    private static final String SCHEMA = "views.schema.json";

    private Views() {}

    /** {@return the names of all outputs that have a schema: those of commands, such as {@code runs}} */
    public static List<String> outputs() {
        return List.copyOf(part(schemas(), "outputs").keySet());
    }

    /** {@return the JSON Schemas of what outputs are made of, by name; they refer to each other as {@code #/$defs/NAME}} */
    public static Map<String, Object> parts() {
        return part(schemas(), "$defs");
    }

    /**
     * {@return the JSON Schema of an output}
     *
     * @param output one of {@link #outputs}
     * @throws IllegalArgumentException if it is none of them
     */
    public static Map<String, Object> schema(String output) {
        Map<String, Object> all = schemas();
        if (!part(all, "outputs").containsKey(output)) {
            throw new IllegalArgumentException("no output is called '" + output + "'");
        }
        Map<String, Object> schema = object("$schema", all.get("$schema"));
        schema.putAll(part(part(all, "outputs"), output));
        Map<String, Object> parts = new TreeMap<>();
        gather(part(all, "$defs"), schema, parts);
        if (!parts.isEmpty()) {
            schema.put("$defs", parts);
        }
        return schema;
    }

    /** Gathers the definitions that a schema refers to, and those that they refer to. */
    private static void gather(Map<String, Object> definitions, Object from, Map<String, Object> found) {
        if (from instanceof Map<?, ?> map) {
            if (map.get("$ref") instanceof String reference) {
                String name = reference.substring(reference.lastIndexOf('/') + 1);
                Object definition = Objects.requireNonNull(definitions.get(name), name);
                if (found.putIfAbsent(name, definition) == null) {
                    gather(definitions, definition, found);
                }
            }
            map.values().forEach(value -> gather(definitions, value, found));
        } else if (from instanceof List<?> list) {
            list.forEach(value -> gather(definitions, value, found));
        }
    }

    @SuppressWarnings("unchecked")
    private static Map<String, Object> part(Map<String, Object> of, String name) {
        return (Map<String, Object>) Objects.requireNonNull(of.get(name), name);
    }

    private static Map<String, Object> schemas() {
        try (InputStream in = Objects.requireNonNull(Views.class.getResourceAsStream(SCHEMA), SCHEMA)) {
            return JSON.std.mapFrom(in);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** A mapping in the order given; optionals are unwrapped, other values become texts where need be. */
    public static Map<String, @Nullable Object> object(@Nullable Object... namesAndValues) {
        Map<String, @Nullable Object> map = new LinkedHashMap<>();
        for (int i = 0; i < namesAndValues.length; i += 2) {
            String name = String.valueOf(namesAndValues[i]);
            Object value = plain(namesAndValues[i + 1]);
            map.put(name, value instanceof Long number && NAMING.contains(name) ? Long.toString(number) : value);
        }
        return map;
    }

    private static @Nullable Object plain(@Nullable Object value) {
        if (value instanceof Optional<?> optional) {
            return optional.map(Views::plain).orElse(null);
        }
        if (value instanceof LocalDateTime local) {
            return LOCAL.format(local);
        }
        if (value == null
                || value instanceof Number
                || value instanceof Boolean
                || value instanceof Map
                || value instanceof List) {
            return value;
        }
        return value.toString();
    }

    /** {@return an occurrence of a schedule} */
    public static Map<String, Object> occurrence(Occurrence occurrence) {
        return object(
                "instant", occurrence.instant(),
                "local", occurrence.local(),
                "zone", occurrence.zone().getId(),
                "notes", occurrence.notes().stream().map(Enum::name).toList(),
                "nominal", occurrence.nominal());
    }

    /**
     * {@return a calendar with its days}
     *
     * @param today the day from which on its next one is looked for, for ten years
     */
    public static Map<String, Object> calendar(CalendarView view, LocalDate today) {
        DayCalendar days = view.row().days();
        return object(
                "calendar", view.row().name(),
                "version", view.row().number(),
                "source", view.row().source(),
                "definedAt", view.definedAt(),
                "jobs", view.jobs(),
                "next",
                        today.datesUntil(today.plusYears(10))
                                .filter(days::contains)
                                .findFirst(),
                "last", days.lastDate(),
                "content", CalendarDocument.write(days));
    }

    /** {@return a one-off} */
    public static Map<String, Object> oneOff(OneOffView view) {
        return object(
                "job", view.job(),
                "key", view.key(),
                "dueAt", view.dueAt(),
                "payload", view.payload(),
                "orderedBy", view.orderedBy(),
                "run", view.run(),
                "exclusive", view.exclusive().map(GateKey::name));
    }

    /** {@return a pause, in force or to come} */
    public static Map<String, Object> pause(Pause pause, boolean inForce) {
        return object(
                "scope", pause.scope(),
                "inForce", inForce,
                "since", pause.since(),
                "until", pause.until(),
                "owed", pause.owed(),
                "calendar", pause.days().map(Pause.Days::calendar),
                "zone", pause.days().map(days -> days.zone().getId()),
                "who", pause.who(),
                "because", pause.because());
    }

    /** {@return a job as it stands, with its definition} */
    public static Map<String, Object> job(JobView view) {
        return job(view, JobDocument.write(view.job()));
    }

    /** {@return a job with its definition as it is to be shown} */
    public static Map<String, Object> job(JobView view, Map<String, Object> definition) {
        return object(
                "job", view.row().name(),
                "description", view.job().description(),
                "schedule", view.job().scheduleInWords(),
                "enabled", view.job().enabled(),
                "paused", view.row().paused(),
                "pauseTurnsAt", view.row().pause().turnsAt(),
                "nextAt", view.row().nextOccurrence(),
                "lastRun",
                        view.lastEnd()
                                .map(end -> object("run", end.run(), "outcome", end.outcome(), "endedAt", end.at())),
                "unfinished", view.row().used(),
                "waiting", view.row().waiting(),
                "version", view.row().version(),
                "source", view.row().source(),
                "definedAt", view.definedAt(),
                "decidedUntil", view.row().cursor(),
                "afterEndAt", view.row().afterEnd().flatMap(AfterEnd::due),
                "definition", definition,
                "pins", PinsDocument.write(Pins.of(view.job())));
    }

    /**
     * {@return a run, live or ended}
     *
     * <p>{@code startedAt}, {@code endedAt}, {@code instance}, {@code fence} and {@code error} are those of its last attempt;
     * {@code lateMillis} is how long after the planned instant its first began.
     */
    public static Map<String, Object> run(RunView run) {
        Optional<Attempt> last = run.lastAttempt();
        return object(
                "run", run.id(),
                "job", run.job(),
                "planned", run.owed().planned(),
                "nominal", run.owed().nominal(),
                "zone", run.owed().zone(),
                "notes",
                        run.owed()
                                .note()
                                .map(notes -> List.of(notes.split(",")))
                                .orElse(List.of()),
                "slot", run.owed().slot().isEmpty() ? null : run.owed().slot(),
                "origin", run.owed().origin(),
                "follows", run.owed().parent(),
                "orderedBy", run.owed().orderedBy(),
                "version", run.version(),
                "lane", run.lane(),
                "state", run.state(),
                "outcome", run.outcome(),
                "reason", run.reason(),
                "progress", run.progress().map(now -> object("percent", now.percent(), "message", now.message())),
                "readyAt", run.readyAt(),
                "startedAt", last.map(Attempt::startedAt),
                "endedAt", last.flatMap(Attempt::endedAt),
                "recordedAt", run.recordedAt(),
                "lateMillis", firstStart(run).map(Duration::toMillis),
                "durationMillis", last.flatMap(Views::took).map(Duration::toMillis),
                "instance", last.map(Attempt::instance),
                "fence", last.map(Attempt::fence),
                "error", last.flatMap(Attempt::error),
                "payload", run.payload(),
                "result", run.result(),
                "attempts",
                        run.attempts().stream().map(each -> attempt(run, each)).toList());
    }

    /** {@return an attempt; what it printed, where the run was read with it} */
    private static Map<String, Object> attempt(RunView run, Attempt attempt) {
        Map<String, Object> map = object(
                "attempt", attempt.number(),
                "instance", attempt.instance(),
                "session", attempt.session(),
                "fence", attempt.fence(),
                "startedAt", attempt.startedAt(),
                "endedAt", attempt.endedAt(),
                "end", attempt.end(),
                "error", attempt.error(),
                "trace", attempt.trace());
        Optional.ofNullable(run.outputs().get(attempt.number()))
                .ifPresent(output -> map.putAll(object(
                        "output", output.text(), "outputBytes", output.bytes(), "outputOmitted", output.omitted())));
        return map;
    }

    /** {@return how long after the planned instant the first attempt of a run began} */
    public static Optional<Duration> firstStart(RunView run) {
        return run.attempts().stream()
                .findFirst()
                .map(first -> Duration.between(run.owed().planned(), first.startedAt()));
    }

    /** {@return how long an attempt took; empty while it runs} */
    public static Optional<Duration> took(Attempt attempt) {
        return attempt.endedAt().map(end -> Duration.between(attempt.startedAt(), end));
    }

    /** {@return occurrences that did not run for one reason} */
    public static Map<String, Object> span(SpanView view) {
        return object(
                "job", view.job(),
                "reason", view.span().reason(),
                "count", view.span().isCounted() ? view.span().count() : null,
                "first", view.span().first(),
                "last", view.span().last(),
                "version", view.span().version());
    }

    /** {@return a line of the change log} */
    public static Map<String, Object> change(ChangeView view) {
        Change change = view.change();
        return object(
                "line", view.id(),
                "at", view.at(),
                "kind", change.kind(),
                "who", change.who(),
                "host", change.host(),
                "job", change.job(),
                "versionBefore", change.versionBefore(),
                "versionAfter", change.versionAfter(),
                "text", change.text(),
                "because", change.because().isEmpty() ? null : change.because());
    }

    /** {@return what was erased of a run} */
    public static Map<String, Object> erased(Erased erased) {
        return object(
                "run", erased.run(),
                "job", erased.job(),
                "erased", erased.content().words(),
                "erasedBefore", erased.earlier().map(Erasure::at),
                "erasedBy", erased.earlier().map(Erasure::who),
                "erasedThen", erased.earlier().map(earlier -> earlier.content().words()),
                "reruns", erased.reruns().stream().map(String::valueOf).toList());
    }

    /** {@return what an instance did or noticed} */
    public static Map<String, Object> event(Event event) {
        return object(
                "kind", event.kind(),
                "at", event.at(),
                "instance", event.instance(),
                "job", event.job(),
                "run", event.run().isPresent() ? event.run().getAsLong() : null,
                "attempt", event.attempt().isPresent() ? event.attempt().getAsInt() : null,
                "planned", event.planned(),
                "outcome", event.outcome(),
                "reason", event.reason(),
                "durationMillis", event.took().map(Duration::toMillis),
                "text", event.text());
    }

    /** {@return a notice and how its delivery stands} */
    public static Map<String, Object> notice(NoticeRow row) {
        Notice notice = row.notice();
        return object(
                "notice", notice.id(),
                "number", row.number(),
                "cause", notice.cause(),
                "channel", notice.channel(),
                "kind", notice.kind().word(),
                "job", notice.job(),
                "at", notice.at(),
                "title", notice.title(),
                "facts", notice.facts(),
                "state", row.state(),
                "attempts", row.attempts(),
                "nextAt", row.state() == NoticeState.WAITING ? row.nextAt() : null,
                "giveUpAt", row.giveUpAt(),
                "problem", row.problem(),
                "settledAt", row.settledAt());
    }

    /** {@return a cause of notices} */
    public static Map<String, Object> cause(CauseRow cause) {
        return object(
                "cause", cause.key(),
                "trouble", cause.trouble(),
                "subject", cause.subject(),
                "openedAt", cause.openedAt(),
                "lastAt", cause.lastAt(),
                "closedAt", cause.closedAt(),
                "count", cause.count(),
                "inARow", cause.inARow(),
                "last", cause.last(),
                "told",
                        cause.told().stream()
                                .map(told -> object(
                                        "channel",
                                        told.channel(),
                                        "firstAt",
                                        told.firstAt(),
                                        "at",
                                        told.at(),
                                        "folded",
                                        told.folded(),
                                        "digestAt",
                                        told.digestAt()))
                                .toList(),
                "acknowledged",
                        cause.silence()
                                .map(silence -> object(
                                        "by", silence.who(),
                                        "because", silence.because(),
                                        "at", silence.at(),
                                        "until", silence.until())));
    }

    /** {@return what a source says about notices} */
    public static Map<String, Object> telling(TellingRow row) {
        Map<String, Object> document = TellingDocument.write(row.telling());
        return object(
                "source", row.source(),
                "version", row.number(),
                "definedAt", row.definedAt(),
                "channels", document.get("channels"),
                "notices", document.get("notices"));
    }

    /** {@return how telling fares} */
    public static Map<String, Object> noticeFigures(NoticeFigures figures) {
        return object(
                "waiting", figures.waiting(),
                "oldestWaiting", figures.oldestWaiting(),
                "undelivered", figures.undelivered(),
                "delivered", figures.delivered(),
                "folded", figures.folded(),
                "causes", figures.causes(),
                "undecided", figures.undecided());
    }

    /** {@return a named lease as it stands at an instant} */
    public static Map<String, Object> lease(NamedLeaseRow lease, Instant now) {
        return object(
                "lease", lease.name(),
                "state", lease.state(now),
                "holder", lease.holder(),
                "fence", lease.fence(),
                "takenAt", lease.takenAt(),
                "renewedAt", lease.renewedAt(),
                "until", lease.until(),
                "freeAt", lease.freeAt());
    }

    /** {@return one life of an instance} */
    public static Map<String, Object> session(SessionView view) {
        return object(
                "instance", view.row().instance(),
                "state", view.row().state(),
                "session", view.row().id(),
                "host", view.row().host(),
                "pid", view.row().pid(),
                "lanes", view.row().lanes(),
                "labels", view.row().labels(),
                "runs", view.runs(),
                "software", view.row().software(),
                "tzdata", view.row().tzdata(),
                "epoch", view.row().epoch(),
                "openedAt", view.row().openedAt(),
                "renewedAt", view.row().renewedAt(),
                "leaseUntil", view.row().leaseUntil(),
                "endedAt", view.row().endedAt(),
                "died", view.row().died(),
                "heapMegabytes", view.row().vitals().map(Vitals::heapMegabytes),
                "heapLimitMegabytes", view.row().vitals().map(Vitals::heapLimitMegabytes),
                "load", view.row().vitals().map(Vitals::load),
                "processors", view.row().vitals().map(Vitals::processors));
    }

    /** {@return a namespace with what its jobs may be and use} */
    public static Map<String, Object> namespace(NamespaceView view) {
        return object(
                "namespace", view.name(),
                "jobs", view.jobs(),
                "paused", view.paused(),
                "allowance", view.allowance().map(row -> AllowanceDocument.write(row.allowance())),
                "setAt", view.allowance().map(AllowanceRow::setAt),
                "setBy", view.allowance().map(AllowanceRow::setBy));
    }

    /** {@return how long the ledger is kept} */
    public static Map<String, Object> retention(Retention retention) {
        return object(
                "total", kept(retention.total(), retention.from()),
                "floor", retention.floor(),
                "appliedAt", retention.appliedAt(),
                "jobs",
                        retention.jobs().stream()
                                .map(job -> object("job", job.name(), "keeps", kept(job.keep(), job.from())))
                                .toList());
    }

    private static Map<String, Object> kept(Keep keep, Instant from) {
        return object("for", keep.age(), "runs", keep.runs(), "keptFrom", from.equals(Instant.EPOCH) ? null : from);
    }

    /** {@return a gate that jobs share, as it stands at an instant} */
    public static Map<String, Object> gate(Gate gate, Instant now) {
        return object(
                "kind", gate.key().kind(),
                "name", gate.key().name(),
                "places", gate.cap(),
                "taken", gate.used(),
                "rate", gate.rate().map(Rate::toString),
                "begun", gate.rate().map(rate -> gate.starts().count(rate, now)),
                "opensAt", gate.opensAt());
    }

    /** {@return a token, without its secret} */
    public static Map<String, Object> token(TokenRow token, Instant now) {
        return object(
                "token", token.name(),
                "role", token.grant().role(),
                "namespaces",
                        token.grant().isEverywhere()
                                ? null
                                : List.copyOf(token.grant().namespaces()),
                "isGood", token.isGood(now),
                "addedAt", token.addedAt(),
                "addedBy", token.addedBy(),
                "until", token.until(),
                "revokedAt", token.revokedAt());
    }

    /** {@return a change that was committed, for those who follow} */
    public static Map<String, Object> feedEvent(FeedEvent event) {
        Map<String, Object> view = object(
                "kind",
                event.kind(),
                "at",
                event.at(),
                "job",
                event.job(),
                "run",
                event.run().map(String::valueOf));
        event.facts()
                .forEach((name, text) -> view.put(name, COUNTED.contains(name) ? (Object) Long.valueOf(text) : text));
        return view;
    }
}
