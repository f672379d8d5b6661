package dev.brume.insight.rehearsal;

import dev.brume.CalendarName;
import dev.brume.DefinitionSet;
import dev.brume.GateKey;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Rate;
import dev.brume.history.History;
import dev.brume.history.JobView;
import dev.brume.history.TellingRow;
import dev.brume.history.Timeframe;
import dev.brume.notice.Channel;
import dev.brume.notice.NoticeRule;
import dev.brume.notice.Telling;
import dev.brume.schedule.DayCalendar;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.function.Predicate;

/**
 * What a store knows that a rehearsal goes by: what is in force, and how long work took of late.
 *
 * @param jobs in force
 * @param took durations of late, by job
 * @param limits how many runs at once, by name
 * @param rates how many may begin in a time, by name
 * @param calendars that are defined
 * @param tellings what sources say about notices
 * @since 0.1.0
 */
public record Present(
        List<JobView> jobs,
        Map<JobName, List<Duration>> took,
        Map<String, Integer> limits,
        Map<String, Rate> rates,
        Map<CalendarName, DayCalendar> calendars,
        List<TellingRow> tellings) {
    /** Where there is no store. */
    public static final Present NOTHING = new Present(List.of(), Map.of(), Map.of(), Map.of(), Map.of(), List.of());

    private static final int SAMPLES = 200;

    /**
     * Reads.
     *
     * @param measured how far back durations are taken from
     */
    public static Present of(History history, Duration measured) {
        return of(history, took(history, measured));
    }

    /**
     * {@return how long the last runs of each job took, at most 200 of each}
     *
     * @param measured how far back
     */
    public static Map<JobName, List<Duration>> took(History history, Duration measured) {
        Instant now = history.now();
        Map<JobName, List<Duration>> took = new HashMap<>();
        history.accounts(Timeframe.between(now.minus(measured), now), account -> {
            List<Duration> durations = account.lines().stream()
                    .flatMap(line -> line.took().stream())
                    .toList();
            if (!durations.isEmpty()) {
                took.put(account.name(), durations.subList(Math.max(0, durations.size() - SAMPLES), durations.size()));
            }
        });
        return took;
    }

    /**
     * {@return what is in force}
     *
     * @param took how long runs of late took, by job
     */
    public static Present of(History history, Map<JobName, List<Duration>> took) {
        Map<String, Integer> limits = new HashMap<>();
        Map<String, Rate> rates = new HashMap<>();
        history.gates().stream()
                .filter(gate -> gate.key().kind() == GateKey.Kind.LIMIT)
                .forEach(gate -> {
                    limits.put(gate.key().name(), gate.cap());
                    gate.rate().ifPresent(rate -> rates.put(gate.key().name(), rate));
                });
        Map<CalendarName, DayCalendar> calendars = new HashMap<>();
        history.calendars()
                .forEach(view -> calendars.put(view.row().name(), view.row().days()));
        return new Present(history.jobs(), took, limits, rates, calendars, history.tellings());
    }

    /** {@return the same, as far as it is of some jobs; what is told is told to nobody} */
    public Present only(Predicate<JobName> some) {
        Map<JobName, List<Duration>> theirs = new HashMap<>(took);
        theirs.keySet().removeIf(some.negate());
        return new Present(
                jobs.stream().filter(view -> some.test(view.name())).toList(),
                theirs,
                limits,
                rates,
                calendars,
                List.of());
    }

    /** {@return what is in force, as definitions of a source of that name} */
    public DefinitionSet inForce(String source) {
        return completed(
                        DefinitionSet.of(source, jobs.stream().map(JobView::job).toList()))
                .withTelling(telling(Telling.NOTHING, source, /* besides= */ true));
    }

    /**
     * {@return definitions with the limits that they do not state themselves, and the calendars that they go by}
     *
     * @param besides whether jobs of other sources take part as they are; a job of a name that is defined does not
     */
    public DefinitionSet with(DefinitionSet own, boolean besides) {
        List<Job> all = new ArrayList<>(own.jobs());
        if (besides) {
            Set<JobName> named =
                    new HashSet<>(own.jobs().stream().map(Job::name).toList());
            jobs.stream()
                    .filter(view -> !view.row().source().equals(own.source()))
                    .map(JobView::job)
                    .filter(job -> !named.contains(job.name()))
                    .forEach(all::add);
        }
        return completed(DefinitionSet.of(own.source(), all)
                        .withCalendars(own.calendars())
                        .withLimits(own.limits())
                        .withRates(own.rates()))
                .withTelling(telling(own.telling().orElse(Telling.NOTHING), own.sourceInFull(), besides));
    }

    /** What a source says about notices, with the channels of others that it may name, and if those take part their rules. */
    private Telling telling(Telling own, String source, boolean besides) {
        List<Channel> channels = new ArrayList<>(own.channels());
        Set<String> named =
                new HashSet<>(own.channels().stream().map(Channel::name).toList());
        List<NoticeRule> rules = new ArrayList<>(own.rules());
        for (TellingRow row : tellings) {
            if (!row.source().equals(source)) {
                row.telling().channels().stream()
                        .filter(channel -> named.add(channel.name()))
                        .forEach(channels::add);
                if (besides) {
                    rules.addAll(row.telling().rules());
                }
            }
        }
        return new Telling(channels, rules);
    }

    /** What is stated comes before what is in force. */
    private DefinitionSet completed(DefinitionSet own) {
        Map<String, Integer> places = new HashMap<>(limits);
        places.putAll(own.limits());
        Map<String, Rate> paces = new HashMap<>(rates);
        paces.keySet().removeAll(own.limits().keySet());
        paces.putAll(own.rates());
        Map<CalendarName, DayCalendar> days = new HashMap<>(calendars);
        days.putAll(own.calendars());
        return DefinitionSet.of(own.source(), own.jobs())
                .withCalendars(days)
                .withLimits(places)
                .withRates(paces);
    }
}
