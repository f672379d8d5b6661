package dev.brume.cli;

import dev.brume.definitions.JsonText;
import dev.brume.definitions.Views;
import dev.brume.history.CalendarView;
import dev.brume.schedule.DayCalendar;
import java.io.PrintWriter;
import java.time.DayOfWeek;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.time.format.TextStyle;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.concurrent.Callable;
import java.util.stream.Collectors;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Spec;

/** Lists the calendars of the store. */
@Command(
        name = "calendars",
        mixinStandardHelpOptions = true,
        description = "Lists the calendars that schedules go by: their days, until when, and how many jobs use them.",
        footerHeading = "%nExample:%n",
        footer = "  brume calendars --data brume-data")
final class CalendarsCommand implements Callable<Integer> {
    @Mixin
    private WhereOptions store;

    @Mixin
    private LookOptions look;

    @Mixin
    private WatchOptions watch;

    @Spec
    private CommandSpec spec;

    private record Seen(List<CalendarView> calendars, LocalDate today) {}

    @Override
    public Integer call() {
        Seen seen = store.look(
                history -> new Seen(history.calendars(), LocalDate.ofInstant(history.now(), ZoneOffset.UTC)));
        PrintWriter out = spec.commandLine().getOut();
        if (look.json()) {
            out.println(JsonText.pretty(seen.calendars.stream()
                    .map(view -> Views.calendar(view, seen.today))
                    .toList()));
            return ExitCode.OK;
        }
        if (seen.calendars.isEmpty()) {
            out.println("No calendars are defined.");
            return ExitCode.OK;
        }
        Table table = new Table(look)
                .column("CALENDAR")
                .column("DAYS")
                .fold()
                .column("NEXT")
                .column("LAST")
                .numbers("JOBS")
                .numbers("VERSION")
                .column("SOURCE");
        for (CalendarView view : seen.calendars) {
            DayCalendar days = view.row().days();
            table.row(
                    view.row().name(),
                    describe(days),
                    next(days, seen.today).map(LocalDate::toString).orElse("none"),
                    days.lastDate().map(LocalDate::toString).orElse("no end"),
                    view.jobs(),
                    view.row().number(),
                    view.row().source());
        }
        table.lines().forEach(out::println);
        return ExitCode.OK;
    }

    /** {@code Mon Tue Wed, 12 dates, except 2}. */
    static String describe(DayCalendar days) {
        String weekly =
                days.weekdays().stream().map(CalendarsCommand::shortName).collect(Collectors.joining(" "));
        int listed = days.dates().size();
        String dates = listed == 0 ? "" : listed + (listed == 1 ? " date" : " dates");
        String except =
                days.except().isEmpty() ? "" : ", except " + days.except().size();
        return weekly + (weekly.isEmpty() || dates.isEmpty() ? "" : ", ") + dates + except;
    }

    private static String shortName(DayOfWeek day) {
        return day.getDisplayName(TextStyle.SHORT, Locale.ENGLISH);
    }

    /** The next day that belongs to it, today included, within ten years. */
    static Optional<LocalDate> next(DayCalendar days, LocalDate today) {
        return today.datesUntil(today.plusYears(10)).filter(days::contains).findFirst();
    }
}
