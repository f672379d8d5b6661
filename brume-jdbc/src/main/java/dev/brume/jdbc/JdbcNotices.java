package dev.brume.jdbc;

import dev.brume.history.CauseRow;
import dev.brume.history.JobRow;
import dev.brume.history.NoticeFigures;
import dev.brume.history.NoticeFilter;
import dev.brume.history.NoticeRow;
import dev.brume.history.NoticeState;
import dev.brume.history.TellingRow;
import dev.brume.internal.text.Texts;
import dev.brume.notice.Notice;
import dev.brume.spi.Notable;
import dev.brume.spi.NoticeHead;
import dev.brume.spi.NoticeSteps;
import java.sql.SQLException;
import java.time.Instant;
import java.util.Arrays;
import java.util.Collection;
import java.util.EnumSet;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Supplier;
import java.util.stream.Collectors;

/** The steps on notices in SQL. */
final class JdbcNotices implements NoticeSteps {
    private static final int LONGEST_PROBLEM = 1000;
    private static final String CAUSE = "cause_key, job_id, opened_at, last_at, closed_at, next_at, body";
    private static final String NOTICE =
            "number, id, cause_key, channel, kind, decided_at, body, state, attempts, next_at,"
                    + " give_up_at, problem, holder, leased_until, settled_at";
    private static final String NEWEST = "select t.source, t.number, t.content, t.defined_at from brume_telling t"
            + " where t.number = (select max(n.number) from brume_telling n where n.source = t.source) order by t.source";

    private final Statements sql;
    private final Dialect dialect;
    private final Supplier<Instant> now;
    private final Noting noting;

    JdbcNotices(Statements sql, Dialect dialect, Supplier<Instant> now, Noting noting) {
        this.sql = sql;
        this.dialect = dialect;
        this.now = now;
        this.noting = noting;
    }

    @Override
    public NoticeHead lock() {
        return head(" for update");
    }

    @Override
    public NoticeHead read() {
        return head("");
    }

    private NoticeHead head(String lock) {
        return sql.first(
                        "select version, wants, watched_at, tidied_at from brume_notice_head where id = 1" + lock,
                        row -> new NoticeHead(
                                row.number("version"),
                                kinds(row.text("wants")),
                                row.optionalInstant("watched_at"),
                                row.optionalInstant("tidied_at")))
                .orElse(NoticeHead.NONE);
    }

    /** Kinds that only a newer version knows are its own to note. */
    private static Set<Notable.Kind> kinds(String text) {
        Set<String> words = Set.of(text.split(" ", -1));
        return Arrays.stream(Notable.Kind.values())
                .filter(kind -> words.contains(kind.name()))
                .collect(Collectors.toCollection(() -> EnumSet.noneOf(Notable.Kind.class)));
    }

    @Override
    public void write(NoticeHead head) {
        sql.update(
                "update brume_notice_head set version = ?, wants = ?, watched_at = ?, tidied_at = ? where id = 1",
                head.version(),
                head.wants().stream().map(Notable.Kind::name).sorted().collect(Collectors.joining(" ")),
                head.watchedAt(),
                head.tidiedAt());
        noting.forget();
    }

    @Override
    public List<TellingRow> tellings() {
        return tellings(sql);
    }

    static List<TellingRow> tellings(Statements sql) {
        return sql.query(
                NEWEST,
                row -> new TellingRow(
                        row.text("source"),
                        row.integer("number"),
                        Json.telling(row.text("source"), row.text("content")),
                        row.instant("defined_at")));
    }

    @Override
    public void add(TellingRow row) {
        sql.update(
                "insert into brume_telling (source, number, content, defined_at) values (?, ?, ?, ?)",
                row.source(),
                row.number(),
                Json.telling(row.telling()),
                row.definedAt());
    }

    /** Notes what a transaction has seen happen. */
    void note(List<Notable> all) {
        sql.update("insert into brume_notable (noted_at, body) values (?, ?)", now.get(), Json.notables(all));
    }

    @Override
    public Map<Long, List<Notable>> notables(int limit) {
        Map<Long, List<Notable>> found = new LinkedHashMap<>();
        sql.query(
                "select id, body from brume_notable order by id limit ?",
                row -> found.put(row.number("id"), Json.notables(row.text("body"))),
                limit);
        return found;
    }

    @Override
    public void forget(Collection<Long> notes) {
        sql.batch("delete from brume_notable where id = ?", new TreeSet<>(notes), Statements.Parameters::add);
    }

    @Override
    public Map<Long, JobRow> jobs(Collection<Long> ids) {
        Map<Long, JobRow> found = new HashMap<>();
        sql.in("select " + Rows.JOB + " from brume_job where id in ", new TreeSet<>(ids), "", Rows::job)
                .forEach(row -> found.put(row.id(), row));
        return found;
    }

    private static Optional<CauseRow> cause(Row row) throws SQLException {
        return Json.cause(
                row.text("cause_key"),
                Rows.optional(row.optionalNumber("job_id")),
                row.instant("opened_at"),
                row.instant("last_at"),
                row.optionalInstant("closed_at"),
                row.text("body"));
    }

    @Override
    public Map<String, CauseRow> causes(Collection<String> keys) {
        Map<String, CauseRow> found = new HashMap<>();
        sql.in("select " + CAUSE + " from brume_cause where cause_key in ", new TreeSet<>(keys), "", JdbcNotices::cause)
                .forEach(cause -> cause.ifPresent(known -> found.put(known.key(), known)));
        return found;
    }

    @Override
    public List<CauseRow> openCauses(int limit) {
        return causes(sql, "closed_at is null", limit);
    }

    static List<CauseRow> causes(Statements sql, String where, int limit) {
        return sql
                .query(
                        "select " + CAUSE + " from brume_cause where " + where
                                + " order by last_at desc, cause_key limit ?",
                        JdbcNotices::cause,
                        limit)
                .stream()
                .flatMap(Optional::stream)
                .toList();
    }

    @Override
    public List<CauseRow> dueCauses(Instant by, int limit) {
        return sql
                .query(
                        "select " + CAUSE + " from brume_cause where next_at <= ? order by next_at, cause_key limit ?",
                        JdbcNotices::cause,
                        by,
                        limit)
                .stream()
                .flatMap(Optional::stream)
                .toList();
    }

    @Override
    public void write(Collection<CauseRow> causes) {
        Set<String> there = new HashSet<>(sql.in(
                "select cause_key from brume_cause where cause_key in ",
                causes.stream().map(CauseRow::key).sorted().toList(),
                "",
                row -> row.text(1)));
        Map<Boolean, List<CauseRow>> known =
                causes.stream().collect(Collectors.partitioningBy(cause -> there.contains(cause.key())));
        sql.batch(
                "update brume_cause set job_id = ?, opened_at = ?, last_at = ?, closed_at = ?, next_at = ?, body = ?"
                        + " where cause_key = ?",
                known.getOrDefault(true, List.of()),
                (parameters, cause) -> values(parameters, cause).add(cause.key()));
        sql.batch(
                "insert into brume_cause (job_id, opened_at, last_at, closed_at, next_at, body, cause_key)"
                        + " values (?, ?, ?, ?, ?, ?, ?)",
                known.getOrDefault(false, List.of()),
                (parameters, cause) -> values(parameters, cause).add(cause.key()));
    }

    private static Statements.Parameters values(Statements.Parameters parameters, CauseRow cause) throws SQLException {
        return parameters.all(
                cause.job(), cause.openedAt(), cause.lastAt(), cause.closedAt(), cause.nextAt(), Json.cause(cause));
    }

    @Override
    public void addNotices(List<NoticeRow> notices) {
        for (NoticeRow row : notices) {
            Notice notice = row.notice();
            sql.addUnlessThere(
                    "insert into brume_notice (id, cause_key, channel, kind, decided_at, body, state, attempts, next_at,"
                            + " give_up_at) values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)" + dialect.unlessThere(),
                    notice.id(),
                    notice.cause(),
                    notice.channel(),
                    notice.kind().word(),
                    notice.at(),
                    Json.notice(notice),
                    row.state(),
                    row.attempts(),
                    row.nextAt(),
                    row.giveUpAt());
        }
    }

    static NoticeRow notice(Row row) throws SQLException {
        Notice notice = Json.notice(
                row.text("id"),
                row.text("cause_key"),
                row.text("channel"),
                row.text("kind"),
                row.instant("decided_at"),
                row.text("body"));
        Optional<String> holder = row.optionalText("holder");
        Optional<NoticeRow.Lease> lease = holder.isEmpty()
                ? Optional.empty()
                : Optional.of(new NoticeRow.Lease(holder.get(), row.instant("leased_until")));
        return new NoticeRow(
                row.number("number"),
                notice,
                NoticeState.valueOf(row.text("state")),
                row.integer("attempts"),
                row.instant("next_at"),
                row.instant("give_up_at"),
                row.optionalText("problem"),
                lease,
                row.optionalInstant("settled_at"));
    }

    @Override
    public List<NoticeRow> lease(Map<String, Integer> together, String holder, Instant until, int limit) {
        Instant at = now.get();
        List<Long> due = together.entrySet().stream()
                .sorted(Map.Entry.comparingByKey())
                .flatMap(channel -> due(channel.getKey(), at, channel.getValue()).stream())
                .limit(limit)
                .toList();
        List<NoticeRow> leased = sql
                .in(
                        "select " + NOTICE + " from brume_notice where number in ",
                        due,
                        " order by number for update skip locked",
                        JdbcNotices::notice)
                .stream()
                .filter(row -> row.state() == NoticeState.WAITING)
                .filter(row ->
                        row.lease().filter(held -> held.until().isAfter(at)).isEmpty())
                .map(row -> row.leased(holder, until))
                .toList();
        sql.batch(
                "update brume_notice set holder = ?, leased_until = ? where number = ?",
                leased,
                (parameters, row) -> parameters.all(holder, until, row.number()));
        return leased;
    }

    private List<Long> due(String channel, Instant at, int limit) {
        return sql.query("""
                select n.number from brume_notice n
                where n.state = 'WAITING' and n.next_at <= ? and n.channel = ?
                and (n.leased_until is null or n.leased_until <= ?)
                and not exists (select 1 from brume_notice o where o.cause_key = n.cause_key and o.channel = n.channel
                    and o.state = 'WAITING' and o.number < n.number)
                order by n.number limit ?""", row -> row.number(1), at, channel, at, limit);
    }

    @Override
    public Set<String> settle(Collection<NoticeRow> notices, String holder) {
        List<NoticeRow> all = List.copyOf(notices);
        int[] counts = sql.batch(
                "update brume_notice set state = ?, attempts = ?, next_at = ?, problem = ?, settled_at = ?,"
                        + " holder = null, leased_until = null where id = ? and holder = ? and state = 'WAITING'",
                all,
                (parameters, row) -> parameters.all(
                        row.state(),
                        row.attempts(),
                        row.nextAt(),
                        row.problem().map(JdbcNotices::shortened),
                        row.settledAt(),
                        row.notice().id(),
                        holder));
        Set<String> settled = new HashSet<>();
        for (int i = 0; i < counts.length; i++) {
            if (counts[i] > 0) {
                settled.add(all.get(i).notice().id());
            }
        }
        return settled;
    }

    private static String shortened(String text) {
        return Texts.clean(text).length() <= LONGEST_PROBLEM ? text : text.substring(0, LONGEST_PROBLEM);
    }

    @Override
    public Optional<Instant> nextNotice() {
        return sql.first(
                        "select min(next_at) as next from brume_notice where state = 'WAITING'",
                        row -> row.optionalInstant("next"))
                .flatMap(next -> next);
    }

    @Override
    public Optional<NoticeRow> lockNotice(String id) {
        return sql.first("select " + NOTICE + " from brume_notice where id = ? for update", JdbcNotices::notice, id);
    }

    @Override
    public void write(NoticeRow row) {
        sql.update(
                "update brume_notice set state = ?, attempts = ?, next_at = ?, give_up_at = ?, problem = ?,"
                        + " settled_at = ?, holder = null, leased_until = null where id = ?",
                row.state(),
                row.attempts(),
                row.nextAt(),
                row.giveUpAt(),
                row.problem().map(JdbcNotices::shortened),
                row.settledAt(),
                row.notice().id());
    }

    @Override
    public int tidy(Instant before, int limit) {
        List<Long> old = sql.query(
                "select number from brume_notice where state <> 'WAITING' and settled_at < ? order by number limit ?",
                row -> row.number(1),
                before,
                limit);
        sql.batch("delete from brume_notice where number = ?", old, Statements.Parameters::add);
        List<String> over = sql.query(
                "select cause_key from brume_cause where closed_at < ? and next_at is null order by cause_key limit ?",
                row -> row.text(1),
                before,
                limit);
        sql.batch("delete from brume_cause where cause_key = ?", over, Statements.Parameters::add);
        return old.size() + over.size();
    }

    // Looking.

    static List<NoticeRow> notices(Statements sql, NoticeFilter filter) {
        Query query = new Query();
        if (!filter.states().isEmpty()) {
            query.in("state", filter.states());
        }
        query.and("cause_key = ?", filter.cause())
                .and("channel = ?", filter.channel())
                .and("number < ?", filter.before());
        return sql.query(
                "select " + NOTICE + " from brume_notice where 1 = 1" + query + " order by number desc limit ?",
                JdbcNotices::notice,
                query.valuesAnd(Math.max(0, filter.limit())));
    }

    static NoticeFigures figures(Statements sql) {
        Map<String, Long> counts = new HashMap<>();
        sql.query(
                "select state, count(*) as notices from brume_notice group by state",
                row -> counts.put(row.text("state"), row.number("notices")));
        Optional<Instant> oldest = sql.first(
                        "select min(decided_at) as oldest from brume_notice where state = 'WAITING'",
                        row -> row.optionalInstant("oldest"))
                .flatMap(at -> at);
        List<CauseRow> open = causes(sql, "closed_at is null", Integer.MAX_VALUE);
        long folded = open.stream()
                .flatMap(cause -> cause.told().stream())
                .mapToLong(CauseRow.Told::folded)
                .sum();
        long undecided = sql.first("select count(*) from brume_notable", row -> row.number(1))
                .orElse(0L);
        return new NoticeFigures(
                counts.getOrDefault(NoticeState.WAITING.name(), 0L),
                oldest,
                counts.getOrDefault(NoticeState.UNDELIVERED.name(), 0L),
                counts.getOrDefault(NoticeState.DELIVERED.name(), 0L),
                folded,
                open.size(),
                undecided);
    }
}
