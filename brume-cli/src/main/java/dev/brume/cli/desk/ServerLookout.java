package dev.brume.cli.desk;

import dev.brume.JobName;
import dev.brume.cli.desk.Server.Address;
import dev.brume.history.History;
import dev.brume.history.JobView;
import dev.brume.insight.doctor.Checkup;
import dev.brume.insight.doctor.Finding;
import dev.brume.insight.why.Answer;
import dev.brume.schedule.Durations;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** A server that is looked at. */
public final class ServerLookout implements Lookout {
    private final Server server;
    private final Optional<Instant> asOf;
    private final History history;

    /** Looks at a server. */
    public ServerLookout(Server server) {
        this(server, Optional.empty());
    }

    private ServerLookout(Server server, Optional<Instant> asOf) {
        this.server = server;
        this.asOf = asOf;
        this.history = new ServerHistory(server, asOf);
    }

    @Override
    public Lookout asOf(Instant then) {
        return new ServerLookout(server, Optional.of(then));
    }

    @Override
    public History history() {
        return history;
    }

    @Override
    public long alive() {
        return asOf.isPresent()
                ? history.sessions(/* ended= */ false).stream()
                        .filter(session -> !session.row().lapsedAt(asOf.get()))
                        .count()
                : server.get(Address.of("self")).seen().number("instances");
    }

    @Override
    public Answer why(JobView job, Optional<Instant> then, ZoneId zone) {
        Seen seen = server.get(
                        Address.of("jobs", job.name().namespace(), job.name().name(), "why")
                                .with("at", then)
                                .with("asOf", asOf)
                                .with("zone", zone.getId()))
                .seen();
        return new Answer(
                seen.word("code", Answer.Code.class),
                seen.text("answer"),
                seen.maybeInstant("at"),
                seen.maybe("reason"),
                seen.texts("runs").stream().map(Long::valueOf).toList(),
                seen.list("facts").stream()
                        .map(fact -> new Answer.Fact(
                                fact.text("name"), fact.text("text"), fact.maybeInstant("at"), fact.maybeNumber("run")))
                        .toList());
    }

    @Override
    public Optional<Seen> shown(long run) {
        try {
            return Optional.of(
                    server.get(Address.of("runs", String.valueOf(run)).with("asOf", asOf))
                            .seen());
        } catch (Refused e) {
            if (e.status() == 404) {
                return Optional.empty();
            }
            throw e;
        }
    }

    @Override
    public Seen tally(Optional<JobName> job, Instant from, Instant until, boolean lineByLine) {
        return period("tally", job, from, until, lineByLine);
    }

    @Override
    public String tallyPage(Optional<JobName> job, Instant from, Instant until, String who, String with, String of) {
        return server.text(Address.of("tally", "report")
                .with("job", job)
                .with("from", from)
                .with("until", until));
    }

    @Override
    public Seen figures(Optional<JobName> job, Instant from, Instant until, boolean lineByLine) {
        return period("figures", job, from, until, lineByLine);
    }

    private Seen period(String what, Optional<JobName> job, Instant from, Instant until, boolean lineByLine) {
        return server.get(Address.of(what)
                        .with("job", job)
                        .with("from", from)
                        .with("until", until)
                        .with("lineByLine", lineByLine ? true : null))
                .seen();
    }

    @Override
    public Checkup.Result findings(ZoneId zone) {
        Seen seen =
                server.get(Address.of("findings").with("zone", zone.getId())).seen();
        return new Checkup.Result(
                seen.list("findings").stream()
                        .map(finding -> new Finding(
                                finding.word("severity", Finding.Severity.class),
                                finding.text("topic"),
                                finding.maybe("about").orElse(""),
                                finding.text("text"),
                                finding.maybe("advice").orElse("")))
                        .toList(),
                seen.text("database"),
                seen.small("jobs"),
                seen.small("instances"));
    }

    @Override
    public Seen sealCheck(Optional<String> head) {
        return server.get(Address.of("seals", "verification").with("head", head))
                .seen();
    }

    @Override
    public Seen sumsChecked(Instant from, Instant until) {
        return server.get(Address.of("roll-ups", "verification")
                        .with("from", from)
                        .with("until", until))
                .seen();
    }

    @Override
    public Map<JobName, List<Duration>> took(Duration measured) {
        Map<JobName, List<Duration>> took = new HashMap<>();
        server.get(Address.of("durations").with("measured", Durations.format(measured)))
                .list()
                .forEach(each -> took.put(
                        JobName.parse(each.text("job")),
                        each.texts("took").stream().map(Duration::parse).toList()));
        return took;
    }

    @Override
    public Optional<Duration> usually(JobName job, Instant from, Instant until) {
        return figures(Optional.of(job), from, until, /* lineByLine= */ true).list("jobs").stream()
                .flatMap(line -> line.maybeWithin("tookMillis").stream())
                .flatMap(took -> took.maybeMillis("p50").stream())
                .findFirst();
    }
}
