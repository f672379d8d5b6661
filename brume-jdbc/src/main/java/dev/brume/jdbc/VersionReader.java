package dev.brume.jdbc;

import dev.brume.CalendarName;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.StoreException;
import dev.brume.history.CalendarRow;
import dev.brume.internal.document.Unreadable;
import dev.brume.schedule.DayCalendar;
import dev.brume.spi.Pins;
import java.lang.ref.SoftReference;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentMap;

/**
 * Makes jobs of stored versions: text, pins, and the versions of calendars these name, which jobs share in memory.
 * Versions never change, so a calendar that was read is kept. Safe for use by many threads.
 */
final class VersionReader {
    static final String COLUMNS = "definition, pins, tzdata";
    private static final int MOST_KEPT = 10_000;

    /** How many jobs are kept that were made for somebody who looks at few of them; whoever reads many makes each once anyway. */
    private static final int JOBS_KEPT = 1_000;

    private static final int FEW = 100;

    /** How many are kept for whoever reads many again and again, as long as there is memory to spare. */
    private static final int MANY_KEPT = 100_000;

    private final ConcurrentMap<Named, DayCalendar> known = new ConcurrentHashMap<>();

    /** The jobs that were looked at last. */
    private final Map<Stored, Optional<Job>> lookedAt =
            Collections.synchronizedMap(new LinkedHashMap<>(16, 0.75f, /* accessOrder= */ true) {
                private static final long serialVersionUID = 1L;

                @Override
                protected boolean removeEldestEntry(Map.Entry<Stored, Optional<Job>> eldest) {
                    return size() > JOBS_KEPT;
                }
            });

    private volatile SoftReference<ConcurrentMap<Stored, Optional<Job>>> many =
            new SoftReference<>(new ConcurrentHashMap<>());

    private record Named(CalendarName key, int number) {}

    /** A version as its columns hold it, not looked into. */
    record Stored(JobName key, String definition, Optional<String> pinned, String tzdata) {
        static Stored of(Row row) throws SQLException {
            return new Stored(
                    Rows.jobKey(row),
                    row.text("definition"),
                    row.optionalText("pins"),
                    row.optionalText("tzdata").orElse(""));
        }

        /** {@return the pins; none if they are damaged, which {@link #job} tells} */
        Pins pins() {
            try {
                return Json.pins(pinned, tzdata);
            } catch (RuntimeException e) {
                return Json.pins(Optional.empty(), tzdata);
            }
        }

        /** {@return the job, one that stands for it if it is damaged, empty if it is for newer versions} */
        Optional<Job> job(Map<String, DayCalendar> calendars) {
            try {
                Pins pins = Json.pins(pinned, tzdata);
                return Json.definition(key, definition).map(job -> pins.apply(job, calendars));
            } catch (RuntimeException | StackOverflowError e) {
                return Optional.of(Unreadable.of(key, e));
            }
        }
    }

    void forget() {
        known.clear();
        lookedAt.clear();
        many.clear();
    }

    /**
     * {@return the jobs in the order given}
     *
     * @throws StoreException if one is not to be read by this version
     */
    List<Job> read(Statements sql, List<Stored> versions) {
        List<Optional<Job>> jobs = readable(sql, versions);
        for (int i = 0; i < jobs.size(); i++) {
            if (jobs.get(i).isEmpty()) {
                throw new StoreException(
                        StoreException.Trouble.SCHEMA,
                        "the definition of " + versions.get(i).key()
                                + " was written by a newer version of Brume and cannot be"
                                + " read by this one; use that version",
                        /* cause= */ null);
            }
        }
        return jobs.stream().flatMap(Optional::stream).toList();
    }

    /** {@return the jobs in the order given, empty where this version cannot read the definition} */
    List<Optional<Job>> readable(Statements sql, List<Stored> versions) {
        return versions.size() > FEW ? readable(sql, versions, spare()) : readable(sql, versions, lookedAt);
    }

    private Map<Stored, Optional<Job>> spare() {
        ConcurrentMap<Stored, Optional<Job>> kept = many.get();
        if (kept == null || kept.size() > MANY_KEPT) {
            kept = new ConcurrentHashMap<>();
            many = new SoftReference<>(kept);
        }
        return kept;
    }

    private List<Optional<Job>> readable(Statements sql, List<Stored> versions, Map<Stored, Optional<Job>> kept) {
        Map<Stored, Optional<Job>> jobs = new HashMap<>();
        List<Stored> unknown = new ArrayList<>();
        for (Stored version : versions) {
            Optional<Job> job = kept.get(version);
            if (job == null) {
                unknown.add(version);
            } else {
                jobs.put(version, job);
            }
        }
        List<Optional<Job>> made = made(sql, unknown);
        for (int i = 0; i < unknown.size(); i++) {
            jobs.put(unknown.get(i), made.get(i));
            kept.put(unknown.get(i), made.get(i));
        }
        return versions.stream().map(jobs::get).toList();
    }

    private List<Optional<Job>> made(Statements sql, List<Stored> versions) {
        load(sql, versions);
        List<Optional<Job>> jobs = new ArrayList<>();
        for (Stored version : versions) {
            Map<String, DayCalendar> calendars = new HashMap<>();
            version.pins().calendars().forEach((name, number) -> {
                DayCalendar calendar = known.get(named(version.key(), name, number));
                if (calendar != null) {
                    calendars.put(name, calendar);
                }
            });
            jobs.add(version.job(calendars));
        }
        return jobs;
    }

    private static Named named(JobName job, String name, int number) {
        return new Named(CalendarName.in(job.namespace(), name), number);
    }

    private void load(Statements sql, List<Stored> versions) {
        Set<Named> wanted = new HashSet<>();
        for (Stored version : versions) {
            version.pins().calendars().forEach((name, number) -> {
                Named key = named(version.key(), name, number);
                if (number > 0 && !known.containsKey(key)) {
                    wanted.add(key);
                }
            });
        }
        if (known.size() + wanted.size() > MOST_KEPT) {
            known.clear();
        }
        for (Named each : wanted) {
            sql.first(
                            "select " + CalendarRows.COLUMNS
                                    + " from brume_calendar where namespace = ? and name = ? and number = ?",
                            CalendarRows::row,
                            each.key().namespace(),
                            each.key().name(),
                            each.number())
                    .map(CalendarRow::days)
                    .ifPresent(days -> known.put(each, days));
        }
    }
}
