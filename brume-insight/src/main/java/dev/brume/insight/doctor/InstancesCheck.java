package dev.brume.insight.doctor;

import dev.brume.Job;
import dev.brume.history.ChangeFilter;
import dev.brume.history.Health;
import dev.brume.history.History;
import dev.brume.history.JobView;
import dev.brume.history.SessionRow;
import dev.brume.history.SessionView;
import dev.brume.insight.why.WhoCould;
import dev.brume.schedule.Durations;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;

/** The part of a checkup that is about instances: who lives, whose clock is off, who could run what. */
final class InstancesCheck {
    private static final Duration SKEW = Duration.ofSeconds(5);
    private static final Duration PATIENCE = Duration.ofSeconds(15);

    private static final Duration LATELY = Duration.ofDays(1);
    private static final int MOST_CHANGES = 100;
    private static final int MOST_NAMED = 3;

    private final List<SessionView> sessions;
    private final List<JobView> jobs;
    private final Health health;
    private final History history;
    private final Checkup checkup;
    private final Instant now;
    private final Findings found;

    InstancesCheck(
            List<SessionView> sessions,
            List<JobView> jobs,
            Health health,
            History history,
            Checkup checkup,
            Instant now,
            Findings found) {
        this.sessions = sessions;
        this.jobs = jobs;
        this.health = health;
        this.history = history;
        this.checkup = checkup;
        this.now = now;
        this.found = found;
    }

    void look() {
        List<SessionRow> alive = sessions.stream()
                .map(SessionView::row)
                .filter(session -> !session.lapsedAt(now))
                .toList();
        lapsed();
        gaveUp(alive);
        clocks(alive);
        zoneRules(alive);
        List<SessionRow> ended = history.sessions(/* ended= */ true).stream()
                .map(SessionView::row)
                .toList();
        died(ended);
        if (alive.isEmpty()) {
            neverServed(ended);
            boolean owed = jobs.stream()
                    .anyMatch(view ->
                            view.job().enabled() && !view.job().schedules().isEmpty());
            if (owed) {
                found.problem(
                        "instances",
                        "",
                        "no instance is alive, so nothing runs",
                        "start one: brume serve, or the application that embeds Brume");
            }
        } else {
            unserved(alive);
        }
    }

    /** Of each name, its newest session alone: one that has joined again has been seen to. */
    private void died(List<SessionRow> all) {
        Map<String, SessionRow> newest = new TreeMap<>();
        all.forEach(session ->
                newest.merge(session.instance(), session, (a, b) -> a.openedAt().isAfter(b.openedAt()) ? a : b));
        newest.values().stream()
                .filter(SessionRow::died)
                .filter(session -> session.leaseUntil().isAfter(now.minus(LATELY)))
                .forEach(session -> found.warning(
                        "instance",
                        session.instance(),
                        "died: its lease ended unrenewed at " + checkup.times().apply(session.leaseUntil()) + " (host "
                                + session.host() + ", process " + session.pid() + "), and it has not joined again",
                        "start it again, if it is wanted; its runs were taken over (brume changes --kind LAPSED)"));
    }

    /** A person who starts an instance now should know which lanes the last ones did not serve. */
    private void neverServed(List<SessionRow> ended) {
        Set<String> served =
                ended.stream().flatMap(session -> session.laneNames().stream()).collect(Collectors.toSet());
        if (served.isEmpty()) {
            return;
        }
        Map<String, List<String>> lanes = jobs.stream()
                .filter(view ->
                        view.job().enabled() && !served.contains(view.job().lane()))
                .collect(Collectors.groupingBy(
                        view -> view.job().lane(),
                        TreeMap::new,
                        Collectors.mapping(view -> view.name().toString(), Collectors.toList())));
        lanes.forEach((lane, names) -> found.warning(
                "lane",
                lane,
                "no instance of the last days served it, and "
                        + names.stream().limit(MOST_NAMED).collect(Collectors.joining(", "))
                        + (names.size() > MOST_NAMED ? " and " + (names.size() - MOST_NAMED) + " more" : "")
                        + (names.size() == 1 ? " needs it" : " need it"),
                "serve it: brume serve --lane " + lane + "=N"));
    }

    /** An instance whose duty does not turn holds no session any more, so that only the change log tells of it. */
    private void gaveUp(List<SessionRow> alive) {
        Set<String> names = alive.stream().map(SessionRow::instance).collect(Collectors.toSet());
        history.changes(ChangeFilter.newest(MOST_CHANGES).withKind("GAVE_UP").from(now.minus(LATELY))).stream()
                .filter(change -> !names.contains(change.change().who()))
                .collect(Collectors.toMap(change -> change.change().who(), change -> change, (newer, older) -> newer))
                .values()
                .forEach(change -> found.problem(
                        "instance",
                        change.change().who(),
                        "gave up its lease at " + checkup.times().apply(change.at()) + ": "
                                + change.change().text(),
                        "look into its log; it joins again once the duty turns, or restart it"));
    }

    private void lapsed() {
        for (SessionView session : sessions) {
            SessionRow row = session.row();
            if (row.isFromTheFuture(now)) {
                found.problem(
                        "clock",
                        row.instance(),
                        "was renewed at " + checkup.times().apply(row.renewedAt())
                                + ", which the database's clock has not reached: it was put back",
                        "look at the time service of the database server");
            } else if (row.lapsedAt(now) && !row.leaseUntil().plus(PATIENCE).isAfter(now)) {
                found.problem(
                        "expired session",
                        row.instance(),
                        "its lease ended at " + checkup.times().apply(row.leaseUntil()) + ", it holds " + session.runs()
                                + (session.runs() == 1 ? " run" : " runs") + ", and nobody has taken them over",
                        "start an instance; a living one takes over within a second");
            }
        }
    }

    private void clocks(List<SessionRow> alive) {
        Duration own = Duration.between(now, checkup.wall());
        if (own.abs().compareTo(SKEW) > 0) {
            found.warning("clock", "this machine", skew(own), "look at its time service; the database's clock decides");
        }
        alive.stream()
                .filter(session -> session.ahead().abs().compareTo(SKEW) > 0)
                .forEach(session -> found.warning(
                        "clock",
                        session.instance(),
                        skew(session.ahead()),
                        "look at the time service of " + session.host()
                                + "; nothing runs twice or is lost by it, but its logs tell other times"));
    }

    private static String skew(Duration ahead) {
        return "its wall clock is " + Durations.about(ahead.abs()) + (ahead.isNegative() ? " behind" : " ahead of")
                + " the database's";
    }

    private void zoneRules(List<SessionRow> alive) {
        Map<String, List<String>> versions = new TreeMap<>(alive.stream()
                .collect(Collectors.groupingBy(
                        SessionRow::tzdata, Collectors.mapping(SessionRow::instance, Collectors.toList()))));
        if (versions.size() > 1) {
            found.warning(
                    "zone rules",
                    "",
                    "instances go by different ones: "
                            + versions.entrySet().stream()
                                    .map(entry -> entry.getKey() + " (" + String.join(", ", entry.getValue()) + ")")
                                    .collect(Collectors.joining(", ")),
                    "update the Java, or its zone rules, of those with the older");
        }
        if (!health.tzdata().isEmpty() && checkup.tzdata().compareTo(health.tzdata()) < 0) {
            found.note(
                    "zone rules",
                    "this command",
                    "goes by " + checkup.tzdata() + ", and the database's occurrences by " + health.tzdata(),
                    "previews from here may differ; update this Java, or its zone rules");
        }
    }

    /** Jobs that nobody who lives could run. */
    private void unserved(List<SessionRow> alive) {
        List<JobView> enabled = jobs.stream()
                .filter(view -> view.job().enabled() && !view.row().paused())
                .toList();
        found.each(
                enabled.stream()
                        .filter(view -> WhoCould.run(view.job(), alive).isPresent())
                        .toList(),
                "nobody to run it",
                view -> found.problem(
                        "nobody to run it",
                        view.row().name().toString(),
                        WhoCould.run(view.job(), alive).orElseThrow(),
                        advice(view.job(), alive)));
    }

    private static String advice(Job job, List<SessionRow> alive) {
        return switch (WhoCould.lacking(job, alive)) {
            case LANE -> "serve it: brume serve --lane " + job.lane() + "=N, or change the job's lane";
            case LABELS -> "let an instance carry them: brume serve --label NAME";
            case HANDLER -> "start the application that registers it, or correct the job's work";
            case NOTHING -> "";
        };
    }
}
