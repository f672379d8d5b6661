package dev.brume.jdbc;

import dev.brume.Job;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.stream.Stream;

/** Finds runs; live ones and ledger lines are looked for apart and merged. */
final class RunSearch {
    private static final String NOTABLE = "(l.outcome <> 'SUCCEEDED' or l.origin <> 'SCHEDULE')";
    /** On the content that is joined anyway: so a database that expects to find enough of them goes from the newest back. */
    private static final String ERROR = "lower(c.error) like ? escape '!'";

    /** How many of the newest lines are gone through in their order before anything else is tried. */
    private static final List<Integer> NEWEST = List.of(50_000, 1_000_000);

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
        return Stream.concat(live.stream(), ended.stream())
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
     * for everywhere, and put in order afterwards, so that the database goes by what is seldom rather than through all lines
     * from the newest back.
     */
    private List<RunView> ended(RunFilter filter) {
        if (!isSeldom(filter)) {
            return store.read(sql -> ended(sql, filter, Optional.empty(), /* fenced= */ false));
        }
        return store.snapshot(sql -> {
            for (int newest : NEWEST) {
                Optional<Instant> since = sql.first(
                        "select planned_at from brume_ledger order by planned_at desc limit 1 offset " + newest,
                        row -> row.instant("planned_at"));
                List<RunView> found = ended(sql, filter, since, /* fenced= */ false);
                if (found.size() == filter.limit() || since.isEmpty()) {
                    return found;
                }
            }
            store.dialect().withoutReadingAll(sql);
            return ended(sql, filter, Optional.empty(), /* fenced= */ true);
        });
    }

    private static boolean isSeldom(RunFilter filter) {
        return filter.job().isPresent()
                || filter.tag().isPresent()
                || filter.instance().isPresent();
    }

    private List<RunView> ended(Statements sql, RunFilter filter, Optional<Instant> since, boolean fenced) {
        Query query = new Query().and("l.planned_at >= ?", since).and("l.outcome = ?", filter.outcome());
        jobs(sql, query, "l", filter);
        common(query, "l", "l.run_id", "l.instance", filter);
        query.and("l.reason = ?", filter.reason());
        query.and(
                fenced
                        ? "exists (select 1 from brume_content c where c.run_id = l.run_id and c.planned_at = l.planned_at and "
                                + ERROR + ")"
                        : ERROR,
                filter.error().map(RunSearch::within));
        if (isNotable(filter)) {
            query.and(NOTABLE);
        }
        String lines =
                fenced ? "(select l.* from brume_ledger l where 1 = 1" + query + " offset 0 rows)" : "brume_ledger";
        return sql.query(
                RunViews.endedOf(lines) + " where 1 = 1" + (fenced ? "" : query)
                        + " order by l.planned_at desc, l.run_id desc limit ?",
                RunViews::ended,
                query.valuesAnd(filter.limit()));
    }

    /** {@return whether only lines can match that a small index has; the condition is written out so that the database sees it} */
    private static boolean isNotable(RunFilter filter) {
        boolean bad =
                filter.outcome().filter(outcome -> outcome != Outcome.SUCCEEDED).isPresent();
        boolean unusual =
                filter.origin().filter(origin -> origin != Origin.SCHEDULE).isPresent();
        return bad || unusual || filter.error().isPresent() || filter.reason().isPresent();
    }

    /** The jobs that are meant, dropped ones of that name included, by id: so that the database knows how often they come up. */
    private void jobs(Statements sql, Query query, String table, RunFilter filter) {
        filter.job()
                .ifPresent(key -> query.in(
                        table + ".job_id",
                        sql.query(
                                "select id from brume_job where namespace = ? and name = ?",
                                row -> row.number("id"),
                                key.namespace(),
                                key.name())));
        filter.tag().ifPresent(tag -> query.in(table + ".job_id", carrying(sql, tag)));
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
