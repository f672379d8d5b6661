package dev.brume.http.internal.console;

import dev.brume.CalendarName;
import dev.brume.JobName;
import dev.brume.Role;
import dev.brume.history.CalendarView;
import dev.brume.http.internal.console.Table.Cell;
import dev.brume.http.internal.console.Table.Line;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Reply;
import dev.brume.schedule.DayCalendar;
import java.time.LocalDate;
import java.time.format.TextStyle;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.TreeSet;
import java.util.stream.Collectors;

/** The calendars that schedules go by, and the forms that define those of a namespace. */
final class CalendarsPage {
    private static final int AHEAD_YEARS = 10;
    private static final int SHOWN = 6;

    private final boolean signsOut;

    CalendarsPage(boolean signsOut) {
        this.signsOut = signsOut;
    }

    List<Operation> operations() {
        return List.of(Operation.get("/calendars", "calendarsPage", "The calendars.")
                .takes(Frame.ZONE)
                .by(this::list));
    }

    private Reply list(Call call) {
        Frame frame = Frame.of(call, "calendars", "Calendars", signsOut);
        LocalDate today = LocalDate.ofInstant(frame.now(), frame.zone());
        List<CalendarView> seen = call.history().calendars().stream()
                .filter(view -> isSeen(call, view.row().name()))
                .toList();
        List<Line> lines = seen.stream()
                .map(view -> Line.of(
                        Cell.code(view.row().name().toString()),
                        Cell.of(days(view.row().days(), today)),
                        Cell.number(view.jobs()),
                        Cell.of(view.row().source()),
                        Cell.time(frame.time(view.definedAt()))))
                .toList();
        ListPage page = new ListPage(frame)
                .text(
                        "Days on which schedules owe nothing, or on which alone they owe something. A name with a slash before it is the"
                                + " whole cluster's.")
                .table(Table.of(
                        "Calendars", lines, "there is none.", "Name", "Coming days", "Jobs", "From", "Defined"));
        namespaces(call).forEach(namespace -> page.order(order(namespace)));
        return page.reply();
    }

    private static boolean isSeen(Call call, CalendarName name) {
        return name.namespace().isEmpty() || call.caller().may(Role.VIEWER, name.namespace());
    }

    private static String days(DayCalendar days, LocalDate today) {
        if (!days.weekdays().isEmpty()) {
            return days.weekdays().stream()
                            .map(day -> day.getDisplayName(TextStyle.FULL, Locale.ENGLISH))
                            .collect(Collectors.joining(", "))
                    + (days.dates().isEmpty() && days.except().isEmpty() ? "" : ", and single dates");
        }
        List<String> coming = today.datesUntil(today.plusYears(AHEAD_YEARS))
                .filter(days::contains)
                .limit(SHOWN + 1L)
                .map(LocalDate::toString)
                .toList();
        return coming.isEmpty()
                ? "none any more"
                : coming.stream().limit(SHOWN).collect(Collectors.joining(", ")) + (coming.size() > SHOWN ? " …" : "");
    }

    /** Those in which the caller may define; of whoever may everywhere, those that there are. */
    private static List<String> namespaces(Call call) {
        if (!call.caller().mayEverywhere(Role.AUTHOR)) {
            return List.copyOf(call.caller().namespaces(Role.AUTHOR));
        }
        TreeSet<String> all = new TreeSet<>(List.of(JobName.MAIN));
        call.history().namespaces().forEach(view -> all.add(view.name()));
        return new ArrayList<>(all).subList(0, Math.min(all.size(), 20));
    }

    private static Order order(String namespace) {
        return Order.post(
                        "Define one in " + namespace,
                        "A calendar of namespace " + namespace
                                + " is defined, anew if it is there. Jobs that go by it get a new version.",
                        "/namespaces/" + Frame.encoded(namespace) + "/calendars/{name}")
                .by("PUT")
                .with(
                        new Order.Field("name", "Name", "", Order.Kind.PLACE),
                        new Order.Field("dates", "Dates, one a line, such as 2027-05-03", "", Order.Kind.LINES),
                        new Order.Field("weekly", "Or days of each week, such as SAT-SUN", "", Order.Kind.TEXT));
    }
}
