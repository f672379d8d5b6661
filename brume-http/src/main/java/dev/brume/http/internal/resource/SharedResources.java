package dev.brume.http.internal.resource;

import dev.brume.CalendarName;
import dev.brume.DefinitionSet;
import dev.brume.DefinitionsSeen;
import dev.brume.GateKey;
import dev.brume.JobName;
import dev.brume.Rate;
import dev.brume.Role;
import dev.brume.definitions.Views;
import dev.brume.history.CalendarView;
import dev.brume.history.Gate;
import dev.brume.http.internal.web.Answer;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.FieldError;
import dev.brume.http.internal.web.Member;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Problem;
import dev.brume.http.internal.web.Problem.Kind;
import dev.brume.http.internal.web.Reply;
import dev.brume.internal.document.CalendarDocument;
import dev.brume.internal.document.DocumentProblem;
import dev.brume.internal.document.Fields;
import dev.brume.schedule.DayCalendar;
import java.time.Duration;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** What the jobs of a namespace share, defined one by one: calendars and limits. */
final class SharedResources {
    private static final Map<String, Object> TEXT = Map.of("type", "string");

    private SharedResources() {}

    static List<Operation> operations() {
        return List.of(
                Operation.of(
                                "PUT",
                                "/namespaces/{namespace}/calendars/{calendar}",
                                "defineCalendar",
                                "Defines a calendar of a namespace, anew or for the first time.")
                        .says(
                                "Jobs that go by it get a new version of their own, and its days count for what is owed from now on.")
                        .needs(Role.AUTHOR)
                        .at("namespace", "harbour", "calendar", "quiet-days")
                        .sends(
                                Map.of("dates", List.of("2027-05-03", "2027-08-15"), "because", "the feasts of 2027"),
                                Member.text("weekly", "Days of each week, such as SAT-SUN."),
                                Member.any("dates", "Dates such as 2027-05-03: a list, or a text with one a line."),
                                Member.flag("takeOver", "Whether it may be taken over from what defines it so far."),
                                Member.BECAUSE)
                        .answers(Answer.of("The calendar.", "calendar"))
                        .by(SharedResources::calendar),
                Operation.of(
                                "PUT",
                                "/namespaces/{namespace}/limits/{limit}",
                                "defineLimit",
                                "Defines a limit of a namespace, anew or for the first time.")
                        .needs(Role.AUTHOR)
                        .at("namespace", "harbour", "limit", "printers")
                        .sends(
                                Map.of("places", 2, "because", "a second printer"),
                                Member.number("places", "How many runs at once."),
                                Member.number("starts", "How many may begin in a time; with per."),
                                Member.text("per", "In which time, such as 1m."),
                                Member.BECAUSE)
                        .answers(Answer.object(
                                "The limit.",
                                "limit",
                                TEXT,
                                "places",
                                Map.of("type", List.of("integer", "null")),
                                "rate",
                                Map.of("type", List.of("string", "null"))))
                        .by(SharedResources::limit));
    }

    private static String named(Call call, String place) {
        String name = call.place(place);
        if (!JobName.isName(name)) {
            throw Problem.invalid(
                    List.of(FieldError.ofMember("", "'" + name + "' is not a name (expected " + JobName.RULE + ")")));
        }
        return name;
    }

    private static Reply calendar(Call call) {
        String namespace = call.place("namespace");
        CalendarName name = new CalendarName(namespace, named(call, "calendar"));
        Fields body = call.body();
        Map<String, Object> document = new LinkedHashMap<>();
        body.text("weekly")
                .map(String::strip)
                .filter(text -> !text.isEmpty())
                .ifPresent(text -> document.put("weekly", text));
        body.raw("dates").ifPresent(dates -> document.put("dates", dates instanceof String text ? lines(text) : dates));
        boolean takeOver = body.flag("takeOver").orElse(false);
        List<DocumentProblem> problems = new ArrayList<>();
        Optional<DayCalendar> days = CalendarDocument.read(
                name.reference(),
                "",
                document,
                file -> {
                    throw new IllegalArgumentException("no file can be read from here");
                },
                problems);
        call.check();
        if (days.isEmpty()) {
            throw Problem.invalid(problems.stream().map(FieldError::of).toList());
        }
        Optional<CalendarView> there = call.history().calendars().stream()
                .filter(view -> view.row().name().equals(name))
                .findFirst();
        there.map(view -> view.row().source())
                .filter(source -> !source.equals(DefinitionResources.SOURCE) && !takeOver)
                .ifPresent(source -> {
                    throw new Problem(
                            Kind.CONFLICT,
                            "the calendar '" + name + "' is defined by " + source
                                    + ", which would define it again; change it there, or take it over with takeOver: true");
                });
        call.plainOrders()
                .define(
                        set(namespace).withCalendars(Map.of(name, days.get())),
                        new DefinitionsSeen(
                                Map.of(),
                                there.map(view -> Map.of(name, view.row().number()))
                                        .orElse(Map.of()),
                                Map.of()));
        LocalDate today = LocalDate.ofInstant(call.history().now(), ZoneOffset.UTC);
        return Reply.json(Views.calendar(
                call.history().calendars().stream()
                        .filter(view -> view.row().name().equals(name))
                        .findFirst()
                        .orElseThrow(),
                today));
    }

    private static DefinitionSet set(String namespace) {
        return DefinitionSet.of(DefinitionResources.SOURCE, List.of()).within(namespace);
    }

    private static List<String> lines(String text) {
        return List.of(text.split("[,;\\s]+")).stream()
                .filter(line -> !line.isEmpty())
                .toList();
    }

    private static Reply limit(Call call) {
        String namespace = call.place("namespace");
        String name = (namespace.equals(JobName.MAIN) ? "" : namespace + "/") + named(call, "limit");
        Fields body = call.body();
        Optional<Integer> places = Shared.bounded(body, "places", 1, DefinitionSet.HIGHEST_LIMIT);
        Optional<Integer> starts = body.integer("starts");
        Optional<Duration> per = body.duration("per");
        if (starts.isPresent() != per.isPresent()) {
            body.note(starts.isPresent() ? "per" : "starts", "is missing: starts and per go together");
        }
        if (places.isEmpty() && starts.isEmpty() && per.isEmpty()) {
            body.note("places", "is missing (or starts and per)");
        }
        Optional<Rate> rate =
                per.flatMap(time -> starts.flatMap(count -> body.read("starts", () -> new Rate(count, time))));
        call.check();
        Optional<Gate> there = call.history().gates().stream()
                .filter(gate -> gate.key().kind() == GateKey.Kind.LIMIT
                        && gate.key().name().equals(name))
                .findFirst();
        DefinitionSet set = set(namespace);
        set = places.isPresent() ? set.withLimits(Map.of(name, places.get())) : set;
        set = rate.isPresent() ? set.withRates(Map.of(name, rate.get())) : set;
        call.plainOrders()
                .define(
                        set,
                        new DefinitionsSeen(
                                Map.of(),
                                Map.of(),
                                there.map(gate -> Map.of(name, gate.cap())).orElse(Map.of())));
        return Reply.json(Views.object("limit", name, "places", places, "rate", rate.map(Rate::toString)));
    }
}
