package dev.brume.cli.desk;

import dev.brume.Allowance;
import dev.brume.Cancelled;
import dev.brume.Defined;
import dev.brume.EditConflictException;
import dev.brume.Grant;
import dev.brume.JobName;
import dev.brume.Keep;
import dev.brume.NewToken;
import dev.brume.NotThereException;
import dev.brume.OneOff;
import dev.brume.OneOffAnswer;
import dev.brume.PauseChange;
import dev.brume.PauseOrder;
import dev.brume.cli.desk.Server.Address;
import dev.brume.definitions.DefinitionFile;
import dev.brume.history.CauseRow;
import dev.brume.history.History;
import dev.brume.history.NoticeRow;
import dev.brume.history.Pause;
import dev.brume.history.Retention;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.history.SealHead;
import dev.brume.insight.diff.DefinitionDiff;
import dev.brume.internal.document.AllowanceDocument;
import dev.brume.schedule.Durations;
import dev.brume.schedule.Occurrence;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.function.Supplier;
import java.util.stream.Collectors;

/** A server that orders are given to. */
public final class ServerDesk implements Desk {
    private final Server server;
    private final History history;
    private final String because;

    /**
     * Gives orders to a server.
     *
     * @param because why they are given; empty if that is not said
     */
    public ServerDesk(Server server, String because) {
        this.server = server;
        this.history = new ServerHistory(server, Optional.empty());
        this.because = because;
    }

    @Override
    public History history() {
        return history;
    }

    @Override
    public String who() {
        return server.get(Address.of("self")).seen().text("name");
    }

    /** Members of an order, with its reason; those that are not given are left out. */
    private Map<String, Object> body(Object... namesAndValues) {
        Map<String, Object> body = new LinkedHashMap<>();
        for (int i = 0; i < namesAndValues.length; i += 2) {
            Object value = namesAndValues[i + 1];
            Object plain = value instanceof Optional<?> maybe ? maybe.orElse(null) : value;
            if (plain != null) {
                body.put(
                        String.valueOf(namesAndValues[i]),
                        plain instanceof Instant || plain instanceof JobName ? plain.toString() : plain);
            }
        }
        if (!because.isEmpty()) {
            body.put("because", because);
        }
        return body;
    }

    private Seen post(Address address, Object... namesAndValues) {
        return server.order("POST", address, body(namesAndValues)).seen();
    }

    private static Address of(JobName job, String... steps) {
        List<String> all = new ArrayList<>(List.of("jobs", job.namespace(), job.name()));
        all.addAll(List.of(steps));
        return Address.of(all.toArray(String[]::new));
    }

    /** Carries out an order about a job; a job that is not there is said as every desk says it. */
    private <T> T about(JobName job, Supplier<T> order) {
        try {
            return order.get();
        } catch (Refused e) {
            if (e.status() == 404 && history.job(job).isEmpty()) {
                throw NotThereException.ofJob(job, "");
            }
            throw e;
        }
    }

    // Pauses.

    private static void put(Map<String, Object> body, Pause.Scope scope) {
        switch (scope.kind()) {
            case JOB -> body.put("job", scope.name());
            case TAG -> body.put("tag", scope.name());
            case NAMESPACE -> body.put("namespace", scope.name());
            case EVERYTHING -> body.put("everything", true);
        }
    }

    private PauseChange pauseChange(String where, Pause.Scope scope, Map<String, Object> body) {
        put(body, scope);
        Supplier<PauseChange> order = () -> {
            Seen seen = server.order("POST", Address.of(where), body).seen();
            return new PauseChange(seen.flag("ordered"), seen.small("jobs"));
        };
        return scope.kind() == Pause.Kind.JOB ? about(JobName.parse(scope.name()), order) : order.get();
    }

    @Override
    public PauseChange pause(PauseOrder order) {
        Map<String, Object> body = body(
                "from", order.from(),
                "until", order.until(),
                "calendar",
                        order.days()
                                .map(days -> days.calendar().namespace() + "/"
                                        + days.calendar().name()),
                "zone", order.days().map(days -> days.zone().getId()));
        if (order.owed() == Pause.Owed.LEFT_OUT) {
            body.put("leaveOut", true);
        }
        return pauseChange("pauses", order.scope(), body);
    }

    @Override
    public PauseChange resume(Pause.Scope scope) {
        return pauseChange("resumptions", scope, body());
    }

    @Override
    public int takeBackPauses(Pause.Scope scope) {
        return pauseChange("resumptions", scope, body("planned", true)).jobs();
    }

    // Runs.

    @Override
    public Optional<Occurrence> skipNext(JobName job) {
        return about(job, () -> post(of(job, "skips")).maybeWithin("skipped").map(Records::occurrence));
    }

    @Override
    public long runNow(JobName job, Optional<String> payload) {
        return about(job, () -> post(of(job, "runs"), "payload", payload).number("run"));
    }

    @Override
    public List<Occurrence> missing(JobName job, Instant from, Instant until) {
        return about(
                job,
                () -> post(of(job, "backfills"), "from", from, "until", until, "dryRun", true).list("missing").stream()
                        .map(Records::occurrence)
                        .toList());
    }

    @Override
    public List<Long> backfill(JobName job, Instant from, Instant until) {
        return about(
                job,
                () -> numbers(
                        post(of(job, "backfills"), "from", from, "until", until).texts("runs")));
    }

    private static List<Long> numbers(List<String> texts) {
        return texts.stream().map(Long::valueOf).toList();
    }

    @Override
    public Cancelled cancel(long run) {
        try {
            return post(Address.of("runs", String.valueOf(run), "cancellations"))
                    .word("cancelled", Cancelled.class);
        } catch (Refused e) {
            if (e.status() == 404) {
                return Cancelled.NO_SUCH_RUN;
            }
            throw e;
        }
    }

    @Override
    public long rerun(long run) {
        return post(Address.of("runs", String.valueOf(run), "reruns")).number("run");
    }

    private Seen bulk(Bulk what, RunFilter filter, boolean dryRun) {
        Map<String, Object> body = body("most", filter.limit(), "dryRun", dryRun);
        body.putAll(Choice.of(filter));
        return server.order("POST", Address.of(what == Bulk.CANCEL ? "cancellations" : "reruns"), body)
                .seen();
    }

    @Override
    public List<RunView> meant(Bulk what, RunFilter filter) {
        Set<Long> meant =
                Set.copyOf(numbers(bulk(what, filter, /* dryRun= */ true).texts("runs")));
        return history.runs(filter).stream()
                .filter(view -> meant.contains(view.id()))
                .toList();
    }

    @Override
    public BulkAnswer orderAll(Bulk what, RunFilter filter) {
        Seen seen = bulk(what, filter, /* dryRun= */ false);
        Map<Long, String> left = new LinkedHashMap<>();
        seen.list("left").forEach(each -> left.put(each.number("run"), each.text("why")));
        return new BulkAnswer(numbers(seen.texts("runs")), left);
    }

    // One-offs.

    private OneOffReply oneOff(JobName job, Supplier<Seen> order) {
        return about(job, () -> {
            try {
                Seen seen = order.get();
                return new OneOffReply(seen.word("answer", OneOffAnswer.Kind.class), seen.maybeNumber("run"));
            } catch (Refused e) {
                if (e.status() == 409 && e.about("run").isPresent()) {
                    return new OneOffReply(
                            OneOffAnswer.Kind.ALREADY_RAN,
                            e.about("run").map(String::valueOf).map(Long::valueOf));
                }
                if (e.status() == 404 && history.job(job).isPresent()) {
                    return new OneOffReply(OneOffAnswer.Kind.NOT_THERE, Optional.empty());
                }
                throw e;
            }
        });
    }

    @Override
    public OneOffReply add(OneOff oneOff, boolean orMove) {
        return oneOff(
                oneOff.job(),
                () -> post(
                        of(oneOff.job(), "one-offs"),
                        "key",
                        oneOff.key(),
                        "at",
                        oneOff.instant(),
                        "in",
                        oneOff.instant().isPresent() ? null : Durations.format(oneOff.delay()),
                        "payload",
                        oneOff.payload(),
                        "exclusive",
                        oneOff.exclusive().map(key -> key.name()),
                        "once",
                        oneOff.orderKey(),
                        "moves",
                        orMove ? true : null));
    }

    @Override
    public OneOffReply move(JobName job, String key, Instant at) {
        return oneOff(
                job,
                () -> server.order("PATCH", of(job, "one-offs", key), body("at", at))
                        .seen());
    }

    @Override
    public OneOffReply drop(JobName job, String key) {
        return oneOff(
                job,
                () -> server.order("DELETE", of(job, "one-offs", key), body()).seen());
    }

    // Jobs.

    @Override
    public void drop(JobName job) {
        about(job, () -> server.order("DELETE", of(job), body()));
    }

    @Override
    public int dropAll(String namespace) {
        return server.order("DELETE", Address.of("namespaces", namespace, "jobs"), body())
                .seen()
                .small("jobs");
    }

    @Override
    public Defined revert(JobName job, int version) {
        return about(job, () -> {
            Seen said = server.order("POST", of(job, "reversions"), body("version", version))
                    .seen();
            return new Defined(job, said.word("kind", Defined.Kind.class), said.small("version"));
        });
    }

    @Override
    public List<JobName> rename(JobName from, JobName to) {
        if (!from.namespace().equals(to.namespace())) {
            throw new IllegalArgumentException(
                    "a job stays in its namespace: '" + from + "' cannot become '" + to + "'");
        }
        return about(
                from,
                () -> server.order("PATCH", of(from), body("name", to.name())).seen().texts("followed").stream()
                        .map(JobName::parse)
                        .toList());
    }

    @Override
    public void define(DefinitionFile file, DefinitionDiff diff, boolean dropGone) {
        Address address = Address.of("definitions")
                .with("takeOver", true)
                .with("dropGone", dropGone)
                .with("because", because.isEmpty() ? null : because);
        try {
            server.document(
                    "PUT", address, file.document(), Map.of("If-Match", "\"" + diff.mark(file.definitions()) + "\""));
        } catch (Refused e) {
            if (e.status() == 409 || e.status() == 412) {
                throw new EditConflictException(e.getMessage());
            }
            throw e;
        }
    }

    @Override
    public CauseRow acknowledge(String cause, Optional<Duration> length) {
        return Records.cause(post(
                Address.of("acknowledgements"),
                "cause",
                cause,
                "for",
                length.map(Durations::format).orElse(null)));
    }

    @Override
    public boolean speak(String cause) {
        return post(Address.of("acknowledgements", "withdrawals"), "cause", cause)
                .flag("acknowledged");
    }

    @Override
    public NoticeRow sendAgain(String notice) {
        return Records.notice(post(Address.of("notices", notice, "deliveries")));
    }

    @Override
    public String sample(String channel) {
        return post(Address.of("channels", "samples"), "channel", channel).text("notice");
    }

    @Override
    public int accept(String source) {
        return post(Address.of("acceptances"), "source", source).small("jobs");
    }

    // All else.

    @Override
    public Set<UUID> drain(String instance) {
        try {
            return server
                    .order("PUT", Address.of("instances", instance, "drain"), body())
                    .seen()
                    .texts("sessions")
                    .stream()
                    .map(UUID::fromString)
                    .collect(Collectors.toSet());
        } catch (Refused e) {
            if (e.status() == 404) {
                return Set.of();
            }
            throw e;
        }
    }

    @Override
    public List<Seen> erase(List<Long> runs) {
        List<Seen> erased = new ArrayList<>();
        for (Long run : runs) {
            erased.addAll(server.order("POST", Address.of("runs", run.toString(), "erasures"), body())
                    .list());
        }
        return erased;
    }

    @Override
    public List<Seen> erase(JobName job, String key) {
        return about(
                job,
                () -> server.order("POST", of(job, "one-offs", key, "erasures"), body())
                        .list());
    }

    @Override
    public SealHead seal() {
        Seen head = server.order("POST", Address.of("seals"), Map.of()).seen();
        return new SealHead(head.number("number"), head.text("digest"), Map.of());
    }

    @Override
    public Optional<Allowance> allow(String namespace, Optional<Allowance> allowance) {
        Map<String, Object> body = body();
        allowance.map(AllowanceDocument::write).ifPresent(body::putAll);
        return server.order(
                        allowance.isPresent() ? "PUT" : "DELETE",
                        Address.of("namespaces", namespace, "allowance"),
                        body)
                .seen()
                .raw("before")
                .map(Records::allowance);
    }

    @Override
    public Keep keep(Keep bounds) {
        Retention before = history.retention();
        server.order(
                "PUT",
                Address.of("retention"),
                body("for", bounds.age().map(Durations::format), "runs", bounds.runs()));
        return before.total();
    }

    @Override
    public Optional<Duration> keepAtLeast(Optional<Duration> floor) {
        Retention before = history.retention();
        server.order(
                "PUT",
                Address.of("retention"),
                body("floor", floor.map(Durations::format).orElse("none")));
        return before.floor();
    }

    @Override
    public long removeBeyondBounds() {
        return post(Address.of("removals")).number("lines");
    }

    @Override
    public long sumUp(boolean anew) {
        return post(Address.of("roll-ups"), "anew", anew).number("lines");
    }

    @Override
    public NewToken addToken(String name, Grant grant, Optional<Duration> length) {
        Seen seen = post(
                Address.of("tokens"),
                "name",
                name,
                "role",
                grant.role().word(),
                "namespaces",
                grant.isEverywhere() ? null : List.copyOf(grant.namespaces()),
                "for",
                length.map(Durations::format));
        return new NewToken(seen.text("token"), grant, seen.maybeInstant("until"), seen.text("secret"));
    }

    @Override
    public boolean revokeToken(String name) {
        Instant now = history.now();
        boolean wasGood =
                history.tokens().stream().anyMatch(token -> token.name().equals(name) && token.isGood(now));
        try {
            server.order("DELETE", Address.of("tokens", name), body());
        } catch (Refused e) {
            if (e.status() == 404) {
                throw NotThereException.ofToken(name);
            }
            throw e;
        }
        return wasGood;
    }
}
