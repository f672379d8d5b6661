package dev.brume.jdbc;

import dev.brume.Job;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.history.IdRanges;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** Finds runs; live ones and ledger lines are looked for apart and merged. */
final class RunSearch {
    private static final String NOTABLE = "(l.outcome <> 'SUCCEEDED' or l.origin <> 'SCHEDULE')";
    /** On the content that is joined anyway: so a database that expects to find enough of them goes from the newest back. */
    private static final String ERROR = "lower(c.error) like ? escape '!'";

    private static final String CONDITIONS = "{conditions}";
    private static final String LINES = "brume_ledger";
    /** Lines that a database is to find by the conditions before it thinks of their order, with what they are joined to. */
    private static final String FENCED =
            "(select l.* from brume_ledger l %s where 1 = 1" + CONDITIONS + " offset 0 rows)";

    private static final String IN_CONTENT =
            "join (select c.run_id, c.planned_at from brume_content c where 1 = 1%s offset 0 rows) e"
                    + " on e.run_id = l.run_id and e.planned_at = l.planned_at";

    /** How many hours one statement asks for. */
    private static final int HOURS = 50;

    /** How many of the newest lines are gone through in their order before anything else is tried; and how many before all are. */
    private static final int NEWEST = 50_000;

    private static final int MORE = 1_000_000;

    private static final Comparator<RunView> NEWEST_FIRST = Comparator.comparing(
                    (RunView run) -> run.owed().planned())
            .thenComparing(RunView::id)
            .reversed();

    private final JdbcStore store;

    RunSearch(JdbcStore store) {
        this.store = store;
    }

    List<RunView> find(RunFilter filter) {
        boolean noneLive = filter.isOfTheEnded();
        List<RunView> live = noneLive ? List.of() : live(filter);
        List<RunView> ended = filter.state().isPresent() ? List.of() : ended(filter);
        // One that ended between the two looks is in both.
        Set<Long> over = ended.stream().map(RunView::id).collect(Collectors.toSet());
        return Stream.concat(live.stream().filter(run -> !over.contains(run.id())), ended.stream())
                .sorted(NEWEST_FIRST)
                .limit(filter.limit())
                .toList();
    }

    private List<RunView> live(RunFilter filter) {
        return store.read(sql -> {
            Query query = new Query().and("r.state = ?", filter.state());
            jobs(sql, query, "r", filter);
            common(query, "r", "r.id", "s.instance", filter);
            return sql.query(
                    RunViews.LIVE + query + " order by r.planned_at desc, r.id desc limit ?",
                    RunViews::live,
                    query.valuesAnd(filter.limit()));
        });
    }

    /**
     * Looks among the newest lines first, in their order, and among more of them then. What comes up there too seldom is looked
     * for everywhere: lines of some jobs where the sums say that they lie, errors from the contents, others by what is seldom; and put in
     * order afterwards.
     */
    private List<RunView> ended(RunFilter filter) {
        if (!isSeldom(filter)) {
            return store.read(sql -> ended(sql, filter, Optional.empty(), LINES));
        }
        return store.snapshot(sql -> {
            Optional<List<RunView>> found = amongNewest(sql, filter, NEWEST);
            if (found.isEmpty()) {
                Optional<LikelyHours> hours = likelyHours(sql, filter);
                found = hours.isPresent()
                        ? Optional.of(within(sql, filter, hours.get()))
                        : amongNewest(sql, filter, MORE);
            }
            if (found.isPresent()) {
                return found.get();
            }
            store.dialect().withoutReadingAll(sql);
            return seldom(sql, filter);
        });
    }

    /** {@return what is wanted, if so many of the newest lines hold all of it} */
    private Optional<List<RunView>> amongNewest(Statements sql, RunFilter filter, int newest) {
        Optional<Instant> since = sql.first(
                "select planned_at from brume_ledger order by planned_at desc limit 1 offset " + newest,
                row -> row.instant("planned_at"));
        return Optional.of(ended(sql, filter, since, LINES))
                .filter(found -> found.size() == filter.limit() || since.isEmpty());
    }

    private Optional<LikelyHours> likelyHours(Statements sql, RunFilter filter) {
        return filter.error().isPresent()
                ? Optional.empty()
                : jobs(sql, filter).flatMap(jobs -> LikelyHours.of(sql, filter, jobs));
    }

    private static boolean isSeldom(RunFilter filter) {
        // The runs of one key are found by it.
        return filter.key().isEmpty() && isOfFew(filter);
    }

    private static boolean isOfFew(RunFilter filter) {
        return filter.job().isPresent()
                || filter.tag().isPresent()
                || !filter.namespaces().isEmpty()
                || filter.error().isPresent()
                || filter.instance().isPresent();
    }

    private List<RunView> seldom(Statements sql, RunFilter filter) {
        if (filter.error().isPresent()) {
            Query error = new Query().and(ERROR, filter.error().map(RunSearch::within));
            return ended(sql, filter, new Query(), FENCED.formatted(IN_CONTENT.formatted(error)), error);
        }
        return ended(sql, filter, new Query(), FENCED.formatted(""), new Query());
    }

    /** Some hours at a time, beginning with the newest; and what the sums do not know of. */
    private List<RunView> within(Statements sql, RunFilter filter, LikelyHours hours) {
        store.dialect().withoutReadingAll(sql);
        Query unknown = new Query()
                .either(
                        "l.run_id between ? and ?",
                        Stream.concat(
                                        hours.reach().open().ranges().stream(),
                                        Stream.of(
                                                new IdRanges.Range(hours.reach().high() + 1, Long.MAX_VALUE)))
                                .map(range -> List.<Object>of(range.first(), range.last()))
                                .toList());
        List<RunView> found = new ArrayList<>(ended(sql, filter, unknown, FENCED.formatted(""), new Query()));
        List<Instant> all = hours.newestFirst();
        int inOrder = 0;
        for (int from = 0; from < all.size() && inOrder < filter.limit(); from += HOURS) {
            Query some = new Query()
                    .either(
                            "l.planned_at >= ? and l.planned_at < ?",
                            all.subList(from, Math.min(from + HOURS, all.size())).stream()
                                    .map(hour -> List.<Object>of(hour, hour.plus(1, ChronoUnit.HOURS)))
                                    .toList());
            List<RunView> runs = ended(sql, filter, some, FENCED.formatted(""), new Query());
            inOrder += runs.size();
            found.addAll(runs);
        }
        Map<Long, RunView> once = new LinkedHashMap<>();
        found.forEach(run -> once.put(run.id(), run));
        return once.values().stream().sorted(NEWEST_FIRST).limit(filter.limit()).toList();
    }

    private List<RunView> ended(Statements sql, RunFilter filter, Optional<Instant> since, String lines) {
        Query own = new Query().and("l.planned_at >= ?", since);
        filter.error().map(RunSearch::within).ifPresent(text -> {
            own.and(ERROR, text);
            own.and("c.planned_at >= ?", since);
        });
        return ended(sql, filter, own, lines, new Query());
    }

    /**
     * Finds ended runs.
     *
     * @param own what they are to be, beside what the filter says
     * @param lines which lines are looked at; if they are fenced, the conditions apply within
     * @param before the values of places that come before those of conditions
     */
    private List<RunView> ended(Statements sql, RunFilter filter, Query own, String lines, Query before) {
        Query query = own.and("l.outcome = ?", filter.outcome());
        jobs(sql, query, "l", filter);
        common(query, "l", "l.run_id", "l.instance", filter);
        query.and("l.reason = ?", filter.reason());
        if (isNotable(filter)) {
            query.and(NOTABLE);
        }
        boolean fenced = lines.contains(CONDITIONS);
        return sql.query(
                RunViews.endedOf(lines.replace(CONDITIONS, query.toString())) + " where 1 = 1" + (fenced ? "" : query)
                        + " order by l.planned_at desc, l.run_id desc limit ?",
                RunViews::ended,
                before.and(query).valuesAnd(filter.limit()));
    }

    /** {@return whether only lines can match that a small index has; the condition is written out so that the database sees it} */
    private static boolean isNotable(RunFilter filter) {
        boolean bad =
                filter.outcome().filter(outcome -> outcome != Outcome.SUCCEEDED).isPresent();
        boolean unusual =
                filter.origin().filter(origin -> origin != Origin.SCHEDULE).isPresent();
        return bad || unusual || filter.error().isPresent() || filter.reason().isPresent();
    }

    private void jobs(Statements sql, Query query, String table, RunFilter filter) {
        jobs(sql, filter).ifPresent(ids -> query.in(table + ".job_id", ids));
    }

    /** The jobs that are meant, dropped ones of that name included, by id: so that the database knows how often they come up. */
    private Optional<Set<Long>> jobs(Statements sql, RunFilter filter) {
        Optional<List<Long>> named = filter.job().map(key -> JobSearch.everNamed(sql, key));
        Optional<List<Long>> tagged = filter.tag().map(tag -> carrying(sql, tag));
        Optional<List<Long>> within = Optional.of(filter.namespaces())
                .filter(names -> !names.isEmpty())
                .map(names ->
                        sql.in("select id from brume_job where namespace in ", names, "", row -> row.number("id")));
        return Stream.of(named, tagged, within)
                .flatMap(Optional::stream)
                .<Set<Long>>map(TreeSet::new)
                .reduce((some, others) -> {
                    some.retainAll(others);
                    return some;
                });
    }

    private static String within(String text) {
        String plain = text.toLowerCase(Locale.ROOT)
                .replace("!", "!!")
                .replace("%", "!%")
                .replace("_", "!_");
        return "%" + plain + "%";
    }

    /** The conditions that apply to live runs as well as to ledger lines. */
    private static void common(Query query, String table, String id, String instance, RunFilter filter) {
        String planned = table + ".planned_at";
        query.and(planned + " >= ?", filter.from())
                .and(planned + " < ?", filter.until())
                .and(instance + " = ?", filter.instance())
                .and(table + ".one_off_key = ?", filter.key())
                .and(table + ".origin = ?", filter.origin());
        filter.below()
                .ifPresent(below -> query.and(
                        planned + " <= ? and (" + planned + " < ? or " + id + " < ?)",
                        below.planned(),
                        below.planned(),
                        below.run()));
    }

    /** The jobs that carry a tag in their definition in force; dropped ones by their last. */
    private List<Long> carrying(Statements sql, String tag) {
        record Read(long job, VersionReader.Stored stored) {}
        List<Read> likely = sql.query(
                "select j.id, j.namespace, j.name, " + Rows.of("v", VersionReader.COLUMNS)
                        + " from brume_job j join brume_definition v on v.job_id = j.id and v.number = j.version"
                        + " where v.definition like ?",
                row -> new Read(row.number("id"), VersionReader.Stored.of(row)),
                "%\"" + tag + "\"%");
        List<Optional<Job>> jobs =
                store.versions().readable(sql, likely.stream().map(Read::stored).toList());
        List<Long> carrying = new ArrayList<>();
        for (int i = 0; i < jobs.size(); i++) {
            if (jobs.get(i).filter(job -> job.tags().contains(tag)).isPresent()) {
                carrying.add(likely.get(i).job);
            }
        }
        return carrying;
    }
}
