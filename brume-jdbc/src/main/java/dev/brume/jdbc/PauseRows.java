package dev.brume.jdbc;

import dev.brume.CalendarName;
import dev.brume.history.Pause;
import dev.brume.schedule.Zones;
import java.sql.SQLException;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/** Pauses as rows: those that ended, are in force, or are to come. Stateless. */
final class PauseRows {
    private static final String ALL =
            "select kind, name, since_at, until_at, owed, calendar_namespace, calendar, zone, who,"
                    + " because from brume_pause where 1 = 1";
    private static final String ORDER = " order by since_at, kind, name, id";
    private static final String IN_FORCE = " and since_at <= ? and (until_at is null or until_at > ?)";
    private static final String OF = " and kind = ? and name = ?";

    private PauseRows() {}

    static List<Pause> all(Statements sql) {
        return sql.query(ALL + ORDER, PauseRows::pause);
    }

    static List<Pause> inForce(Statements sql, Instant at) {
        return sql.query(ALL + IN_FORCE + ORDER, PauseRows::pause, at, at);
    }

    static List<Pause> planned(Statements sql, Instant at) {
        return sql.query(ALL + " and since_at > ?" + ORDER, PauseRows::pause, at);
    }

    private static Pause pause(Row row) throws SQLException {
        Optional<String> calendar = row.optionalText("calendar");
        Optional<Pause.Days> days = calendar.isEmpty()
                ? Optional.empty()
                : Optional.of(new Pause.Days(
                        new CalendarName(row.optionalText("calendar_namespace").orElse(""), calendar.get()),
                        Zones.parse(row.text("zone"))));
        return new Pause(
                new Pause.Scope(Pause.Kind.valueOf(row.text("kind")), row.text("name")),
                row.instant("since_at"),
                row.optionalInstant("until_at"),
                Pause.Owed.valueOf(row.text("owed")),
                row.text("who"),
                row.text("because"),
                days);
    }

    static void add(Statements sql, Pause pause) {
        sql.update(
                "insert into brume_pause (kind, name, since_at, until_at, owed, calendar_namespace, calendar, zone, who,"
                        + " because) values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
                pause.scope().kind(),
                pause.scope().name(),
                pause.since(),
                pause.until(),
                pause.owed(),
                pause.days().map(days -> days.calendar().namespace()),
                pause.days().map(days -> days.calendar().name()),
                pause.days().map(days -> days.zone().getId()),
                pause.who(),
                pause.because());
    }

    static int end(Statements sql, Pause.Scope scope, Instant at) {
        return sql.update(
                "update brume_pause set until_at = ? where 1 = 1" + OF + IN_FORCE,
                at,
                scope.kind(),
                scope.name(),
                at,
                at);
    }

    static int takeBack(Statements sql, Pause.Scope scope, Optional<Pause.Days> days, Instant at) {
        List<Object> values = new ArrayList<>(List.of(scope.kind(), scope.name(), at));
        days.ifPresent(each -> values.addAll(List.of(
                each.calendar().namespace(), each.calendar().name(), each.zone().getId())));
        return sql.update(
                "delete from brume_pause where 1 = 1" + OF + " and since_at > ?"
                        + (days.isPresent() ? " and calendar_namespace = ? and calendar = ? and zone = ?" : ""),
                values.toArray());
    }
}
