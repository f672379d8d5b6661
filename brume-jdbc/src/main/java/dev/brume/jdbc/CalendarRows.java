package dev.brume.jdbc;

import dev.brume.CalendarName;
import dev.brume.history.CalendarRow;
import java.sql.SQLException;
import java.time.Instant;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;

/** The statements on calendars. */
final class CalendarRows {
    static final String COLUMNS = "namespace, name, number, content, source";
    static final String NEWEST = " from brume_calendar c where c.number = (select max(n.number) from brume_calendar n"
            + " where n.namespace = c.namespace and n.name = c.name)";

    private CalendarRows() {}

    static CalendarRow row(Row row) throws SQLException {
        CalendarName key = new CalendarName(row.text("namespace"), row.text("name"));
        return new CalendarRow(key, row.integer("number"), Json.calendar(key, row.text("content")), row.text("source"));
    }

    static Map<CalendarName, CalendarRow> newest(Statements sql, Collection<CalendarName> keys) {
        Map<CalendarName, CalendarRow> found = new HashMap<>();
        for (CalendarName key : keys) {
            sql.first(
                            "select " + COLUMNS + NEWEST + " and c.namespace = ? and c.name = ?",
                            CalendarRows::row,
                            key.namespace(),
                            key.name())
                    .ifPresent(row -> found.put(key, row));
        }
        return found;
    }

    static void add(Statements sql, List<CalendarRow> versions, Instant at) {
        sql.batch(
                "insert into brume_calendar (" + COLUMNS + ", defined_at) values (?, ?, ?, ?, ?, ?)",
                versions,
                (parameters, version) -> parameters.all(
                        version.name().namespace(),
                        version.name().name(),
                        version.number(),
                        Json.calendar(version.days()),
                        version.source(),
                        at));
    }
}
