package dev.brume.jdbc;

import dev.brume.CalendarName;
import dev.brume.FollowUp;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.history.AfterEnd;
import dev.brume.history.Change;
import dev.brume.history.JobRow;
import dev.brume.history.Pause;
import dev.brume.history.VersionKey;
import dev.brume.internal.document.JobDocument;
import dev.brume.spi.NewJob;
import dev.brume.spi.Redefinition;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.function.Function;
import java.util.function.Supplier;

/** The statements on definitions, their versions, the change log and the revisions of sources. */
final class DefinitionRows {
    private final Statements sql;
    private final Dialect dialect;
    private final VersionReader versions;
    private final Supplier<Instant> now;

    DefinitionRows(Statements sql, Dialect dialect, VersionReader versions, Supplier<Instant> now) {
        this.sql = sql;
        this.dialect = dialect;
        this.versions = versions;
        this.now = now;
    }

    List<Long> add(List<NewJob> jobs, Function<Collection<JobName>, Map<JobName, JobRow>> find) {
        sql.batch(
                """
                insert into brume_job (namespace, name, live_key, version, source, cursor_at, next_at, cap, lane,
                    end_due_at, format, keep_seconds, keep_runs, watched)
                values (?, ?, ?, 1, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)""",
                jobs,
                (parameters, added) -> parameters.all(
                        added.job().name().namespace(),
                        added.job().name().name(),
                        Rows.liveKey(added.job().name()),
                        added.source(),
                        added.at(),
                        added.nextAt(),
                        added.job().ifBusy().places(),
                        added.job().lane(),
                        added.afterEnd().flatMap(AfterEnd::due),
                        JobDocument.format(added.job()),
                        added.job().keep().age().map(Duration::toSeconds),
                        added.job().keep().runs(),
                        watched(added.job())));
        Map<JobName, JobRow> rows =
                find.apply(jobs.stream().map(added -> added.job().name()).toList());
        List<Long> ids = jobs.stream()
                .map(added -> Objects.requireNonNull(rows.get(added.job().name()), "not added")
                        .id())
                .toList();
        List<Redefinition> first = new ArrayList<>();
        for (int i = 0; i < jobs.size(); i++) {
            NewJob added = jobs.get(i);
            first.add(new Redefinition(
                    ids.get(i),
                    1,
                    added.job(),
                    added.pins(),
                    added.source(),
                    added.at(),
                    added.nextAt(),
                    added.afterEnd()));
        }
        addVersions(first);
        return ids;
    }

    private void addVersions(List<Redefinition> added) {
        sql.batch(
                """
                insert into brume_definition (job_id, number, definition, pins, tzdata, source, defined_at)
                values (?, ?, ?, ?, ?, ?, ?)""",
                added,
                (parameters, version) -> parameters.all(
                        version.id(),
                        version.number(),
                        Json.definition(version.job()),
                        Json.pins(version.pins()),
                        version.pins().tzdata(),
                        version.source(),
                        version.at()));
        addFollowUps(added);
        List<Use> uses = new ArrayList<>();
        added.forEach(version -> version.pins()
                .calendars()
                .forEach((name, number) -> uses.add(new Use(
                        version.id(), CalendarName.in(version.job().name().namespace(), name), number))));
        if (!uses.isEmpty()) {
            sql.batch(
                    "insert into brume_calendar_use (job_id, namespace, name, number) values (?, ?, ?, ?)",
                    uses,
                    (parameters, use) -> parameters.all(
                            use.job(),
                            use.calendar().namespace(),
                            use.calendar().name(),
                            use.number()));
        }
    }

    private void addFollowUps(List<Redefinition> added) {
        List<Edge> edges = new ArrayList<>();
        added.forEach(version ->
                version.job().followUps().forEach(followUp -> edges.add(new Edge(version.id(), followUp))));
        if (!edges.isEmpty()) {
            sql.batch(
                    "insert into brume_follow_up (job_id, target, follows) values (?, ?, ?)",
                    edges,
                    (parameters, edge) -> parameters.all(
                            edge.job(),
                            Rows.liveKey(edge.followUp().job()),
                            edge.followUp().on()));
        }
    }

    private record Edge(long job, FollowUp followUp) {}

    Map<JobName, List<JobName>> followUps(Collection<JobName> jobs) {
        Map<JobName, List<JobName>> edges = new HashMap<>();
        sql.in(
                """
                select j.namespace, j.name, f.target
                from brume_follow_up f
                join brume_job j on j.id = f.job_id
                where j.live_key in\s""",
                jobs.stream().map(Rows::liveKey).toList(),
                "",
                row -> edges.computeIfAbsent(Rows.jobKey(row), key -> new ArrayList<>())
                        .add(JobName.parse(row.text("target"))));
        return edges;
    }

    private static Optional<Integer> watched(Job job) {
        return job.isWatched() ? Optional.of(1) : Optional.empty();
    }

    private record Use(long job, CalendarName calendar, int number) {}

    void redefine(List<Redefinition> changes) {
        sql.batch(
                "update brume_job set version = ?, source = ?, cursor_at = ?, next_at = " + dialect.dueAt()
                        + ", cap = ?, lane = ?, end_due_at = ?,"
                        + " end_run = ?, format = ?, keep_seconds = ?, keep_runs = ?, watched = ? where id = ?",
                changes,
                (parameters, change) -> parameters.all(
                        change.number(),
                        change.source(),
                        change.at(),
                        change.nextAt(),
                        change.nextAt(),
                        change.job().ifBusy().places(),
                        change.job().lane(),
                        change.afterEnd().flatMap(AfterEnd::due),
                        change.afterEnd().flatMap(AfterEnd::run),
                        JobDocument.format(change.job()),
                        change.job().keep().age().map(Duration::toSeconds),
                        change.job().keep().runs(),
                        watched(change.job()),
                        change.id()));
        sql.batch(
                "delete from brume_calendar_use where job_id = ?",
                changes,
                (parameters, change) -> parameters.all(change.id()));
        sql.batch(
                "delete from brume_follow_up where job_id = ?",
                changes,
                (parameters, change) -> parameters.all(change.id()));
        addVersions(changes);
    }

    List<JobName> followedBy(JobName target) {
        return sql.query(
                "select j.namespace, j.name from brume_follow_up f join brume_job j on j.id = f.job_id"
                        + " where f.target = ? and j.live_key is not null order by j.id",
                Rows::jobKey,
                Rows.liveKey(target));
    }

    void rename(long job, JobName from, JobName to) {
        sql.update(
                "update brume_job set namespace = ?, name = ?, live_key = ? where id = ?",
                to.namespace(),
                to.name(),
                Rows.liveKey(to),
                job);
        sql.update(
                "insert into brume_former_name (job_id, until_at, name_key) values (?, ?, ?)",
                job,
                now.get(),
                Rows.liveKey(from));
        sql.update(
                "update brume_pause set name = ? where kind = ? and name = ?",
                Pause.Scope.of(to).name(),
                Pause.Kind.JOB,
                Pause.Scope.of(from).name());
    }

    Map<JobName, JobRow> formerly(Collection<JobName> names) {
        Map<JobName, JobRow> found = new HashMap<>();
        sql.in(
                "select " + Rows.of("j", Rows.JOB)
                        + ", f.name_key from brume_former_name f join brume_job j on j.id = f.job_id"
                        + " where j.live_key is not null and f.name_key in ",
                names.stream().map(Rows::liveKey).toList(),
                " order by f.until_at",
                row -> found.put(JobName.parse(row.text("name_key")), Rows.job(row)));
        return found;
    }

    /** {@return the first names of those of some jobs that were renamed} */
    static Map<Long, JobName> firstNames(Statements sql, Collection<Long> jobs) {
        Map<Long, JobName> first = new HashMap<>();
        sql.in(
                "select job_id, name_key from brume_former_name where job_id in ",
                new TreeSet<>(jobs),
                " order by until_at",
                row -> first.putIfAbsent(row.number("job_id"), JobName.parse(row.text("name_key"))));
        return first;
    }

    void drop(long job) {
        sql.update("delete from brume_calendar_use where job_id = ?", job);
        sql.update("delete from brume_follow_up where job_id = ?", job);
        sql.update(
                "update brume_job set live_key = null, next_at = null, turn_at = null, end_due_at = null, end_run = null, dropped_at = ? where id = ?",
                now.get(),
                job);
    }

    void addChanges(List<Change> changes) {
        if (changes.isEmpty()) {
            return;
        }
        Instant at = now.get();
        sql.batch(
                """
                insert into brume_change (at, kind, who, host, job, version_before, version_after, body, because)
                values (?, ?, ?, ?, ?, ?, ?, ?, ?)""",
                changes,
                (parameters, change) -> parameters.all(
                        at,
                        change.kind(),
                        change.who(),
                        change.host(),
                        change.job().map(Rows::liveKey),
                        change.versionBefore(),
                        change.versionAfter(),
                        change.text(),
                        change.because()));
    }

    Map<VersionKey, Job> read(Collection<VersionKey> keys) {
        Set<Long> jobs = new TreeSet<>();
        keys.forEach(key -> jobs.add(key.job()));
        Set<VersionKey> wanted = new HashSet<>(keys);
        List<VersionKey> order = new ArrayList<>();
        List<VersionReader.Stored> stored = new ArrayList<>();
        sql.in(
                "select j.namespace, j.name, v.job_id, v.number, " + Rows.of("v", VersionReader.COLUMNS)
                        + " from brume_definition v join brume_job j on j.id = v.job_id where v.job_id in ",
                jobs,
                "",
                row -> {
                    VersionKey key = new VersionKey(row.number("job_id"), row.integer("number"));
                    if (wanted.contains(key)) {
                        order.add(key);
                        stored.add(VersionReader.Stored.of(row));
                    }
                    return key;
                });
        List<Optional<Job>> read = versions.readable(sql, stored);
        Map<VersionKey, Job> found = new HashMap<>();
        for (int i = 0; i < order.size(); i++) {
            VersionKey key = order.get(i);
            read.get(i).ifPresent(job -> found.put(key, job));
        }
        return found;
    }

    OptionalLong revision(String source) {
        return revision(sql, source);
    }

    static OptionalLong revision(Statements sql, String source) {
        return sql
                .query("select revision from brume_source where name = ?", row -> row.number("revision"), source)
                .stream()
                .mapToLong(Long::longValue)
                .findFirst();
    }

    int accept(String source) {
        sql.update("delete from brume_source where name = ?", source);
        int colon = source.indexOf(':');
        List<Object> values = new ArrayList<>(List.of(source.substring(colon + 1)));
        if (colon >= 0) {
            values.add(source.substring(0, colon));
        }
        List<Long> jobs = sql.query(
                "select id from brume_job where live_key is not null and source = ?"
                        + (colon < 0 ? "" : " and namespace = ?") + " order by id",
                row -> row.number(1),
                values.toArray());
        build(jobs, Optional.empty());
        return jobs.size();
    }

    Map<Long, Instant> builds(Collection<Long> jobs) {
        Map<Long, Instant> found = new TreeMap<>();
        sql.in(
                        "select id, built_at from brume_job where built_at is not null and id in ",
                        jobs,
                        "",
                        row -> Map.entry(row.number("id"), row.instant("built_at")))
                .forEach(each -> found.put(each.getKey(), each.getValue()));
        return found;
    }

    void build(Collection<Long> jobs, Optional<Instant> built) {
        sql.batch(
                "update brume_job set built_at = ? where id = ?",
                jobs,
                (parameters, job) -> parameters.all(built, job));
    }

    void revision(String source, long number, String who) {
        Instant at = now.get();
        int known = sql.update(
                "update brume_source set revision = ?, applied_by = ?, applied_at = ? where name = ?",
                number,
                who,
                at,
                source);
        if (known == 0) {
            sql.update(
                    "insert into brume_source (name, revision, applied_by, applied_at) values (?, ?, ?, ?)",
                    source,
                    number,
                    who,
                    at);
        }
    }
}
