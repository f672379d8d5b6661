package dev.brume.insight.diff;

import dev.brume.Allowance;
import dev.brume.CalendarName;
import dev.brume.DefinitionSet;
import dev.brume.DefinitionsSeen;
import dev.brume.GateKey;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Rate;
import dev.brume.history.CalendarView;
import dev.brume.history.Gate;
import dev.brume.history.History;
import dev.brume.history.JobView;
import dev.brume.history.NamespaceView;
import dev.brume.history.TellingRow;
import dev.brume.internal.document.JobDocument;
import dev.brume.internal.document.TellingDocument;
import dev.brume.internal.text.Digests;
import dev.brume.notice.Telling;
import dev.brume.schedule.Counting;
import dev.brume.schedule.DayCalendar;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.stream.Collectors;

/**
 * The changes that a set of definitions would make.
 *
 * @param jobs in the order of the set, then those that are no longer in it, by name
 * @param calendars those that would be added or get another version
 * @param limits those that would be added or resized
 * @param notices channels and rules of notices that would be added, changed or go
 * @param revision the highest revision of the source that was ever applied
 * @param seen the versions that it was compared with
 * @param notAllowed what the allowances of its namespaces refuse, a sentence each; nothing is put in force then
 * @since 0.1.0
 */
public record DefinitionDiff(
        List<JobDiff> jobs,
        List<CalendarDiff> calendars,
        List<LimitDiff> limits,
        List<NoticeDiff> notices,
        OptionalLong revision,
        DefinitionsSeen seen,
        List<String> notAllowed) {

    /**
     * The change of a calendar.
     *
     * @param name its name
     * @param version that is in force, 0 if it is new
     * @param jobs how many jobs go by it now, and get a new version of their own
     */
    public record CalendarDiff(CalendarName name, int version, int jobs) {}

    /**
     * The change of a limit.
     *
     * @param name its name in full
     * @param before how many places it has, 0 if it is new
     * @param after how many it would have
     * @param rateBefore how many runs may begin in a time, if that is limited
     * @param rateAfter how many would
     */
    public record LimitDiff(String name, int before, int after, Optional<Rate> rateBefore, Optional<Rate> rateAfter) {}

    /**
     * The change of a channel, or of a rule of notices.
     *
     * @param channel whether it is a channel
     * @param name its name in full
     * @param before what it says, as a document; empty if it is new
     * @param after what it would say; empty if it goes
     */
    public record NoticeDiff(boolean channel, String name, Map<String, Object> before, Map<String, Object> after) {

        /** What becomes of it. */
        public enum Kind {
            /** It is new. */
            NEW("+", "new"),
            /** It says something else. */
            CHANGED("~", "changed"),
            /** The source states it no longer. */
            GONE("-", "goes");

            private final String sign;
            private final String words;

            Kind(String sign, String words) {
                this.sign = sign;
                this.words = words;
            }

            /** {@return a sign for it} */
            public String sign() {
                return sign;
            }

            /** {@return a word for it} */
            public String words() {
                return words;
            }
        }

        /** {@return what becomes of it} */
        public Kind kind() {
            if (before.isEmpty()) {
                return Kind.NEW;
            }
            return after.isEmpty() ? Kind.GONE : Kind.CHANGED;
        }
    }

    /**
     * Compares a set with what is in force.
     *
     * @param now from when occurrences are compared
     * @param ahead for how long
     */
    public static DefinitionDiff of(DefinitionSet set, History history, Instant now, Duration ahead) {
        Map<JobName, JobView> stored = new TreeMap<>();
        history.jobs().forEach(view -> stored.put(view.row().name(), view));
        return of(set, stored, history, now, ahead);
    }

    /**
     * Compares a set with those jobs alone that it names: what its source defines besides is not looked at, and is not told to be gone.
     *
     * @param now from when occurrences are compared
     * @param ahead for how long
     */
    public static DefinitionDiff ofItsJobs(DefinitionSet set, History history, Instant now, Duration ahead) {
        Map<JobName, JobView> stored = new TreeMap<>();
        set.jobs().forEach(job -> history.job(job.name()).ifPresent(view -> stored.put(job.name(), view)));
        return of(set, stored, history, now, ahead);
    }

    private static DefinitionDiff of(
            DefinitionSet set, Map<JobName, JobView> stored, History history, Instant now, Duration ahead) {
        Map<CalendarName, CalendarView> calendars = new HashMap<>();
        history.calendars().forEach(view -> calendars.put(view.row().name(), view));
        List<JobDiff> jobs = new ArrayList<>();
        Map<JobName, Integer> seen = new HashMap<>();
        Set<JobName> named = new HashSet<>();
        for (Job job : set.jobs()) {
            named.add(job.name());
            Job resolved = job.withCalendars(daysOf(job, set, calendars));
            jobs.add(
                    compare(resolved, Optional.ofNullable(stored.get(job.name())), set.source(), now, now.plus(ahead)));
        }
        stored.values().stream()
                .filter(view -> view.row().source().equals(set.source())
                        && set.namespaces().contains(view.row().name().namespace())
                        && !named.contains(view.row().name()))
                .forEach(view -> jobs.add(gone(view)));
        jobs.stream().filter(job -> job.version() > 0).forEach(job -> seen.put(job.name(), job.version()));
        Map<CalendarName, Integer> seenCalendars = new HashMap<>();
        calendars.forEach((key, view) -> {
            if (set.calendars().containsKey(key)) {
                seenCalendars.put(key, view.row().number());
            }
        });
        Map<String, Integer> limits = limitsOf(history);
        List<CalendarDiff> calendarDiffs = calendarDiffs(set, calendars);
        List<LimitDiff> limitDiffs = limitDiffs(set, limits, ratesOf(history));
        return new DefinitionDiff(
                jobs,
                calendarDiffs,
                limitDiffs,
                noticeDiffs(set, history),
                history.revision(set.sourceInFull()),
                new DefinitionsSeen(seen, seenCalendars, limits),
                notAllowed(changing(set, calendarDiffs, limitDiffs), jobs, history, now));
    }

    /**
     * {@return what was seen of what a set is about, as a short text: two are equal if and only if the same versions were seen}
     *
     * @param set the one that was compared
     */
    public String mark(DefinitionSet set) {
        TreeMap<String, Integer> all = new TreeMap<>();
        seen.jobs().forEach((name, version) -> all.put("job " + name, version));
        seen.calendars().forEach((name, version) -> all.put("calendar " + name, version));
        seen.limits().forEach((name, places) -> {
            if (set.limits().containsKey(name)) {
                all.put("limit " + name, places);
            }
        });
        return Digests.sha256(all.toString()).substring(0, 32);
    }

    private static List<NoticeDiff> noticeDiffs(DefinitionSet set, History history) {
        if (set.telling().isEmpty()) {
            return List.of();
        }
        Telling before = history.tellings().stream()
                .filter(row -> row.source().equals(set.sourceInFull()))
                .map(TellingRow::telling)
                .findFirst()
                .orElse(Telling.NOTHING);
        Telling after = set.telling().get();
        List<NoticeDiff> diffs = new ArrayList<>();
        diffs.addAll(noticeDiffs(/* channel= */ true, documents(before, "channels"), documents(after, "channels")));
        diffs.addAll(noticeDiffs(/* channel= */ false, documents(before, "notices"), documents(after, "notices")));
        return diffs;
    }

    private static Map<String, Map<String, Object>> documents(Telling telling, String key) {
        Map<String, Map<String, Object>> documents = new TreeMap<>();
        ((Map<?, ?>) Objects.requireNonNull(TellingDocument.write(telling).get(key))).forEach((name, content) -> {
            Map<String, Object> members = new LinkedHashMap<>();
            ((Map<?, ?>) content).forEach((member, value) -> members.put((String) member, value));
            documents.put((String) name, members);
        });
        return documents;
    }

    private static List<NoticeDiff> noticeDiffs(
            boolean channel, Map<String, Map<String, Object>> before, Map<String, Map<String, Object>> after) {
        TreeSet<String> names = new TreeSet<>(before.keySet());
        names.addAll(after.keySet());
        return names.stream()
                .map(name -> new NoticeDiff(
                        channel, name, before.getOrDefault(name, Map.of()), after.getOrDefault(name, Map.of())))
                .filter(diff -> !diff.before().equals(diff.after()))
                .toList();
    }

    /** {@return the set with those limits and calendars alone that it would change} */
    private static DefinitionSet changing(
            DefinitionSet set, List<CalendarDiff> calendarDiffs, List<LimitDiff> limitDiffs) {
        Map<String, Integer> limits = new HashMap<>(set.limits());
        limits.keySet().retainAll(limitDiffs.stream().map(LimitDiff::name).toList());
        Map<CalendarName, DayCalendar> calendars = new HashMap<>(set.calendars());
        calendars
                .keySet()
                .retainAll(calendarDiffs.stream().map(CalendarDiff::name).toList());
        Map<String, Rate> rates = new HashMap<>(set.rates());
        rates.keySet().retainAll(limits.keySet());
        return set.withRates(rates).withLimits(limits).withCalendars(calendars);
    }

    private static List<String> notAllowed(DefinitionSet set, List<JobDiff> jobs, History history, Instant now) {
        List<String> refusals = new ArrayList<>();
        for (NamespaceView namespace : history.namespaces()) {
            if (set.namespaces().contains(namespace.name())) {
                namespace
                        .allowance()
                        .ifPresent(row -> refusals.addAll(notAllowed(row.allowance(), namespace, set, jobs, now)));
            }
        }
        return refusals;
    }

    private static List<String> notAllowed(
            Allowance allowance, NamespaceView namespace, DefinitionSet set, List<JobDiff> jobs, Instant now) {
        List<JobDiff> own = jobs.stream()
                .filter(job -> job.name().namespace().equals(namespace.name()))
                .toList();
        List<String> refusals = new ArrayList<>(allowance.refusals(set));
        long more = own.stream().filter(job -> job.kind() == JobDiff.Kind.NEW).count();
        allowance.refusalOfJobs(namespace.jobs(), more).ifPresent(refusals::add);
        refusals.replaceAll(refusal -> "namespace " + namespace.name() + ": " + refusal);
        own.stream()
                .filter(job -> job.kind() == JobDiff.Kind.NEW || job.kind() == JobDiff.Kind.CHANGED)
                .forEach(job -> allowance
                        .refusals(job.job(), now)
                        .forEach(refusal -> refusals.add("job '" + job.name() + "': " + refusal)));
        return refusals;
    }

    private static Map<String, DayCalendar> daysOf(
            Job job, DefinitionSet set, Map<CalendarName, CalendarView> calendars) {
        Map<String, DayCalendar> days = new HashMap<>();
        for (DayCalendar named : job.calendars()) {
            CalendarName key = CalendarName.in(job.name().namespace(), named.name());
            Optional.ofNullable(set.calendars().get(key))
                    .or(() -> Optional.ofNullable(calendars.get(key))
                            .map(view -> view.row().days()))
                    .ifPresent(found -> days.put(named.name(), found));
        }
        return days;
    }

    private static JobDiff compare(Job job, Optional<JobView> known, String source, Instant now, Instant until) {
        if (known.isEmpty()) {
            Job none = job.copy().enabled(false).build();
            Job counted = job.countedFrom(Counting.from(now));
            return new JobDiff(
                    job.name(),
                    JobDiff.Kind.NEW,
                    0,
                    Optional.empty(),
                    List.of(),
                    job,
                    Optional.of(Shift.of(none, counted, now, until)));
        }
        JobView view = known.get();
        Job before = view.job();
        Optional<String> movesFrom = Optional.of(view.row().source()).filter(other -> !other.equals(source));
        List<String> lines = new ArrayList<>(lines(before, job));
        if (lines.isEmpty() && !job.calendars().equals(before.calendars())) {
            lines.add("~ days of its calendars");
        }
        boolean same = job.equals(before) && lines.isEmpty() && movesFrom.isEmpty();
        return new JobDiff(
                job.name(),
                same ? JobDiff.Kind.UNCHANGED : JobDiff.Kind.CHANGED,
                view.row().version(),
                movesFrom,
                lines,
                job,
                same ? Optional.empty() : Optional.of(shift(view, job, now, until)));
    }

    /** Schedules that stay as they are go on counting from where they did. */
    private static Shift shift(JobView view, Job job, Instant now, Instant until) {
        boolean sameTimes = job.schedules().equals(view.job().schedules())
                && job.calendars().equals(view.job().calendars());
        Job counted = sameTimes ? job.withSchedules(view.job().schedules()) : job.countedFrom(Counting.from(now));
        return Shift.of(view.job(), counted, now, until);
    }

    private static JobDiff gone(JobView view) {
        return new JobDiff(
                view.row().name(),
                JobDiff.Kind.GONE,
                view.row().version(),
                Optional.empty(),
                List.of(),
                view.job(),
                Optional.empty());
    }

    private static List<CalendarDiff> calendarDiffs(DefinitionSet set, Map<CalendarName, CalendarView> calendars) {
        List<CalendarDiff> found = new ArrayList<>();
        new TreeMap<>(byName(set.calendars())).forEach((name, entry) -> {
            CalendarView view = calendars.get(entry.getKey());
            if (view == null) {
                found.add(new CalendarDiff(entry.getKey(), 0, 0));
            } else if (!view.row().days().equals(entry.getValue())) {
                found.add(new CalendarDiff(entry.getKey(), view.row().number(), view.jobs()));
            }
        });
        return found;
    }

    private static Map<String, Map.Entry<CalendarName, DayCalendar>> byName(Map<CalendarName, DayCalendar> calendars) {
        Map<String, Map.Entry<CalendarName, DayCalendar>> map = new HashMap<>();
        calendars.entrySet().forEach(entry -> map.put(entry.getKey().toString(), entry));
        return map;
    }

    private static Map<String, Integer> limitsOf(History history) {
        return history.gates().stream()
                .filter(gate -> gate.key().kind() == GateKey.Kind.LIMIT)
                .collect(Collectors.toMap(gate -> gate.key().name(), Gate::cap));
    }

    private static Map<String, Rate> ratesOf(History history) {
        return history.gates().stream()
                .filter(gate -> gate.rate().isPresent())
                .collect(Collectors.toMap(
                        gate -> gate.key().name(), gate -> gate.rate().orElseThrow()));
    }

    private static List<LimitDiff> limitDiffs(
            DefinitionSet set, Map<String, Integer> known, Map<String, Rate> knownRates) {
        List<LimitDiff> found = new ArrayList<>();
        new TreeMap<>(set.limits()).forEach((name, places) -> {
            LimitDiff diff = new LimitDiff(
                    name,
                    known.getOrDefault(name, 0),
                    places,
                    Optional.ofNullable(knownRates.get(name)),
                    Optional.ofNullable(set.rates().get(name)));
            if (diff.before() != places || !diff.rateBefore().equals(diff.rateAfter())) {
                found.add(diff);
            }
        });
        return found;
    }

    /** {@return what is different between two definitions, key by key: {@code - before}, {@code + after}} */
    public static List<String> lines(Job before, Job after) {
        Map<String, Object> old = JobDocument.write(before);
        Map<String, Object> now = JobDocument.write(after);
        TreeSet<String> keys = new TreeSet<>(old.keySet());
        keys.addAll(now.keySet());
        List<String> lines = new ArrayList<>();
        for (String key : keys) {
            if (!String.valueOf(old.get(key)).equals(String.valueOf(now.get(key)))) {
                if (old.containsKey(key)) {
                    lines.add("- " + key + ": " + PlainText.of(old.get(key)));
                }
                if (now.containsKey(key)) {
                    lines.add("+ " + key + ": " + PlainText.of(now.get(key)));
                }
            }
        }
        return lines;
    }

    /** {@return the jobs of a kind} */
    public List<JobDiff> of(JobDiff.Kind kind) {
        return jobs.stream().filter(job -> job.kind() == kind).toList();
    }

    /** {@return whether nothing would change} */
    public boolean isNone() {
        return calendars.isEmpty()
                && limits.isEmpty()
                && jobs.stream().allMatch(job -> job.kind() == JobDiff.Kind.UNCHANGED);
    }

    /** {@return whether a newer revision of the source is in force, so that nothing of this one would be applied} */
    public boolean isOutdated(DefinitionSet set) {
        return set.revision().isPresent()
                && revision.isPresent()
                && revision.getAsLong() > set.revision().getAsLong();
    }
}
