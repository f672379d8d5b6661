package dev.brume;

import dev.brume.notice.Channel;
import dev.brume.notice.NoticeRule;
import dev.brume.schedule.Durations;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.Schedule;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Collections;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Predicate;

/**
 * What the jobs of a namespace may be and use, for a namespace whose people define for themselves.
 *
 * <p>A namespace without one may do anything. One that has an allowance is also confined to itself: names of the whole cluster, and jobs of other
 * namespaces as follow-ups, only as far as they are granted. It is held against definitions when they are put in force, and against payloads
 * when they are ordered; what is in force already stays. Immutable.
 *
 * @since 0.1.0
 */
public final class Allowance {
    /** The least that {@link #longestPayload} may be: so short a payload is never looked at. */
    public static final int LEAST_PAYLOAD = 1000;

    /** The most jobs that may be stated. */
    public static final int MOST_JOBS = 10_000_000;

    /** Everything within the namespace itself, and nothing of others. */
    public static final Allowance OWN = new Allowance(new Parts());

    private static final int OCCURRENCES = 1000;
    private static final Duration SHORTEST = Duration.ofSeconds(1);
    private static final String ANY = "*";

    /** The kinds of work. */
    public enum Kind {
        /** A handler that an instance has registered. */
        HANDLER,
        /** A program. */
        PROGRAM,
        /** An HTTP request. */
        REQUEST;

        static Kind of(Work work) {
            return work instanceof Work.Registered ? HANDLER : work instanceof Work.Program ? PROGRAM : REQUEST;
        }

        @Override
        public String toString() {
            return name().toLowerCase(Locale.ROOT);
        }
    }

    private final Parts parts;

    private static final class Parts {
        Optional<Integer> jobs = Optional.empty();
        Optional<Duration> interval = Optional.empty();
        Set<Kind> kinds = Set.of();
        Set<String> handlers = Set.of();
        Set<String> lanes = Set.of();
        Optional<Integer> payload = Optional.empty();
        Set<String> shared = Set.of();
        Set<String> followUps = Set.of();

        Parts copy() {
            Parts copy = new Parts();
            copy.jobs = jobs;
            copy.interval = interval;
            copy.kinds = kinds;
            copy.handlers = handlers;
            copy.lanes = lanes;
            copy.payload = payload;
            copy.shared = shared;
            copy.followUps = followUps;
            return copy;
        }

        List<Object> all() {
            return List.of(jobs, interval, kinds, handlers, lanes, payload, shared, followUps);
        }
    }

    private Allowance(Parts parts) {
        this.parts = parts;
    }

    private static Set<String> sorted(Collection<String> names, Predicate<String> rule, String what, String expected) {
        names.forEach(name -> {
            if (!rule.test(name)) {
                throw new IllegalArgumentException(what + ": '" + name + "' is not a name (expected " + expected + ")");
            }
        });
        return Collections.unmodifiableSet(new TreeSet<>(names));
    }

    /**
     * {@return a copy that allows only so many jobs}
     *
     * @param most 1 to {@value #MOST_JOBS}
     * @throws IllegalArgumentException if it is outside that range
     */
    public Allowance mostJobs(int most) {
        if (most < 1 || most > MOST_JOBS) {
            throw new IllegalArgumentException("jobs: " + most + " is outside 1 to " + MOST_JOBS);
        }
        Parts copy = parts.copy();
        copy.jobs = Optional.of(most);
        return new Allowance(copy);
    }

    /**
     * {@return a copy that allows only schedules whose occurrences are so far apart}
     *
     * @param least from one occurrence of a job to the next, at least 1 s
     * @throws IllegalArgumentException if it is shorter
     */
    public Allowance shortestInterval(Duration least) {
        Parts copy = parts.copy();
        copy.interval = Optional.of(Durations.checked("interval", least, SHORTEST, Durations.LONGEST));
        return new Allowance(copy);
    }

    /** {@return a copy that allows only some kinds of work; all if none is given} */
    public Allowance kinds(Set<Kind> some) {
        Parts copy = parts.copy();
        copy.kinds = Collections.unmodifiableSet(new TreeSet<>(some));
        return new Allowance(copy);
    }

    /**
     * {@return a copy that allows only some handlers, whatever other kinds of work it allows; all if none is given}
     *
     * @throws IllegalArgumentException if one is no name of a handler
     */
    public Allowance handlers(Collection<String> some) {
        Parts copy = parts.copy();
        copy.handlers = sorted(
                some,
                name -> !name.isBlank() && name.length() <= Work.LONGEST_HANDLER,
                "handlers",
                "1 to " + Work.LONGEST_HANDLER + " characters");
        return new Allowance(copy);
    }

    /**
     * {@return a copy that allows only some lanes; all if none is given}
     *
     * @throws IllegalArgumentException if one is no name
     */
    public Allowance lanes(Collection<String> some) {
        Parts copy = parts.copy();
        copy.lanes = sorted(some, JobName::isName, "lanes", JobName.RULE);
        return new Allowance(copy);
    }

    /**
     * {@return a copy that allows only payloads of so many characters}
     *
     * @param most {@value #LEAST_PAYLOAD} to {@value Job#LONGEST_PAYLOAD}
     * @throws IllegalArgumentException if it is outside that range
     */
    public Allowance longestPayload(int most) {
        if (most < LEAST_PAYLOAD || most > Job.LONGEST_PAYLOAD) {
            throw new IllegalArgumentException(
                    "payload: " + most + " is outside " + LEAST_PAYLOAD + " to " + Job.LONGEST_PAYLOAD + " characters");
        }
        Parts copy = parts.copy();
        copy.payload = Optional.of(most);
        return new Allowance(copy);
    }

    /**
     * {@return a copy that grants limits, exclusion keys and calendars of the whole cluster}
     *
     * @param names {@code /NAME} each, or {@code /*} for all there are
     * @throws IllegalArgumentException if one is neither
     */
    public Allowance sharing(Collection<String> names) {
        Parts copy = parts.copy();
        copy.shared = sorted(
                names,
                name -> name.equals("/" + ANY) || SharedName.isOfCluster(name) && JobName.isName(name.substring(1)),
                "shared",
                "/NAME, or /* for all");
        return new Allowance(copy);
    }

    /**
     * {@return a copy that grants jobs of other namespaces as follow-ups}
     *
     * @param jobs {@code NAMESPACE/NAME} each, or {@code NAMESPACE/*} for all of one
     * @throws IllegalArgumentException if one is neither
     */
    public Allowance followedBy(Collection<String> jobs) {
        Parts copy = parts.copy();
        copy.followUps =
                sorted(jobs, Allowance::isJobOrAll, "followUps", "NAMESPACE/NAME, or NAMESPACE/* for all of one");
        return new Allowance(copy);
    }

    private static boolean isJobOrAll(String text) {
        int slash = text.indexOf('/');
        String name = text.substring(slash + 1);
        return slash > 0 && JobName.isName(text.substring(0, slash)) && (name.equals(ANY) || JobName.isName(name));
    }

    /** {@return how many jobs there may be, if that is bounded} */
    public Optional<Integer> mostJobs() {
        return parts.jobs;
    }

    /** {@return how far apart the occurrences of a job must be, if that is bounded} */
    public Optional<Duration> shortestInterval() {
        return parts.interval;
    }

    /** {@return which kinds of work are allowed; empty if all are} */
    public Set<Kind> kinds() {
        return parts.kinds;
    }

    /** {@return which handlers are allowed, by name; empty if all are} */
    public Set<String> handlers() {
        return parts.handlers;
    }

    /** {@return which lanes are allowed, by name; empty if all are} */
    public Set<String> lanes() {
        return parts.lanes;
    }

    /** {@return how long a payload may be, in characters, if that is bounded} */
    public Optional<Integer> longestPayload() {
        return parts.payload;
    }

    /** {@return which names of the whole cluster are granted} */
    public Set<String> shared() {
        return parts.shared;
    }

    /** {@return which jobs of other namespaces are granted as follow-ups} */
    public Set<String> followUps() {
        return parts.followUps;
    }

    // Holding it against something.

    /**
     * {@return what a job is or uses that is not allowed, a sentence each; empty if it may be defined}
     *
     * <p>How far apart the occurrences of several schedules are is seen from the next thousand of them.
     *
     * @param now from when they are looked at
     */
    public List<String> refusals(Job job, Instant now) {
        List<String> refusals = new ArrayList<>();
        Kind kind = Kind.of(job.work());
        if (!parts.kinds.isEmpty() && !parts.kinds.contains(kind)) {
            refusals.add("a " + kind + " is not among the kinds of work it may be: " + words(parts.kinds));
        }
        job.work()
                .neededHandler()
                .filter(name -> !parts.handlers.isEmpty() && !parts.handlers.contains(name))
                .ifPresent(name -> refusals.add(
                        "handler: '" + name + "' is not among those it may have: " + words(parts.handlers)));
        if (!parts.lanes.isEmpty() && !parts.lanes.contains(job.lane())) {
            refusals.add("lane: '" + job.lane() + "' is not among those it may have: " + words(parts.lanes));
        }
        job.payload().flatMap(this::refusalOfPayload).ifPresent(refusals::add);
        parts.interval.flatMap(least -> tooClose(job, now, least)).ifPresent(refusals::add);
        job.gates().stream()
                .filter(gate -> SharedName.isOfCluster(gate.name()) && !isShared(gate.name()))
                .forEach(gate -> refusals.add(notShared(SharedName.what(gate.kind()), gate.name())));
        job.calendars().stream()
                .filter(calendar -> SharedName.isOfCluster(calendar.name()) && !isShared(calendar.name()))
                .forEach(calendar -> refusals.add(notShared("calendars", calendar.name())));
        job.followUps().stream()
                .map(FollowUp::job)
                .filter(target -> !target.namespace().equals(job.name().namespace()) && !isFollowUp(target))
                .forEach(target ->
                        refusals.add("followUps: '" + target + "' is another namespace's job, which is not granted"));
        return refusals;
    }

    /**
     * {@return which limits and calendars a set defines that are not its own namespace's and not granted, a sentence each}
     *
     * @param set of definitions of the namespace
     */
    public List<String> refusals(DefinitionSet set) {
        List<String> refusals = new ArrayList<>();
        set.limits().keySet().stream()
                .sorted()
                .filter(name -> !isIts(set, SharedName.isOfCluster(name) ? "" : SharedName.namespaceOf(name), name))
                .forEach(name -> refusals.add(notShared("limits", name)));
        set.calendars().keySet().stream()
                .filter(name -> !isIts(set, name.namespace(), name.toString()))
                .map(CalendarName::toString)
                .sorted()
                .forEach(name -> refusals.add(notShared("calendars", name)));
        set.telling().ifPresent(telling -> {
            telling.channels().stream()
                    .map(Channel::name)
                    .filter(name -> !isIts(set, SharedName.isOfCluster(name) ? "" : SharedName.namespaceOf(name), name))
                    .forEach(name -> refusals.add(notShared("channels", name)));
            telling.rules().stream()
                    .map(NoticeRule::name)
                    .filter(name -> !isIts(set, SharedName.isOfCluster(name) ? "" : SharedName.namespaceOf(name), name))
                    .forEach(name -> refusals.add(notShared("notices", name)));
        });
        return refusals;
    }

    /**
     * {@return why more jobs are not allowed; empty if they are, or there are no more}
     *
     * @param there how many there are
     * @param more how many are to be added
     */
    public Optional<String> refusalOfJobs(long there, long more) {
        return parts.jobs
                .filter(most -> more > 0 && there + more > most)
                .map(most -> "jobs: " + there + " are there, and " + most + " is the most it may have");
    }

    /** {@return why a payload is not allowed; empty if it is} */
    public Optional<String> refusalOfPayload(String payload) {
        return parts.payload
                .filter(most -> payload.length() > most)
                .map(most -> "payload: " + payload.length() + " characters are more than the " + most + " it may have");
    }

    private boolean isIts(DefinitionSet set, String namespace, String name) {
        return namespace.isEmpty() ? isShared(name) : set.namespaces().contains(namespace);
    }

    private boolean isShared(String name) {
        return parts.shared.contains(name) || parts.shared.contains("/" + ANY);
    }

    private boolean isFollowUp(JobName target) {
        return parts.followUps.contains(target.namespace() + "/" + target.name())
                || parts.followUps.contains(target.namespace() + "/" + ANY);
    }

    private static String notShared(String what, String name) {
        return what + ": '" + name + "' is "
                + (SharedName.isOfCluster(name) ? "the whole cluster's" : "another namespace's")
                + ", which is not granted";
    }

    /** What one schedule leaves between its occurrences is known; what several leave between theirs is seen from the next ones. */
    private static Optional<String> tooClose(Job job, Instant now, Duration least) {
        for (Schedule schedule : job.schedules()) {
            Duration apart = schedule.smallestInterval();
            if (apart.compareTo(least) < 0) {
                return Optional.of("'" + schedule + "' leaves only " + Durations.format(apart)
                        + " between two occurrences, and " + Durations.format(least) + " is the least");
            }
        }
        if (job.schedules().size() < 2) {
            return Optional.empty();
        }
        Occurrence before = job.next(now).orElse(null);
        for (int i = 0; i < OCCURRENCES && before != null; i++) {
            Occurrence next = job.next(before.instant()).orElse(null);
            if (next != null && apart(before, next).compareTo(least) < 0) {
                return Optional.of("its occurrences at " + before.instant() + " and " + next.instant() + " are "
                        + Durations.format(apart(before, next)) + " apart, and " + Durations.format(least)
                        + " is the least");
            }
            before = next;
        }
        return Optional.empty();
    }

    /** Clock changes aside: a day is a day even if it has 23 hours. */
    private static Duration apart(Occurrence first, Occurrence next) {
        Duration apart = Duration.between(first.instant(), next.instant());
        Duration local = Duration.between(first.nominal(), next.nominal());
        return first.zone().equals(next.zone()) && local.compareTo(apart) > 0 ? local : apart;
    }

    private static String words(Collection<?> names) {
        return String.join(", ", names.stream().map(Object::toString).toList());
    }

    @Override
    public boolean equals(Object other) {
        return other instanceof Allowance that && parts.all().equals(that.parts.all());
    }

    @Override
    public int hashCode() {
        return parts.all().hashCode();
    }

    /** {@return it in words, for the change log} */
    @Override
    public String toString() {
        List<String> said = new ArrayList<>();
        parts.jobs.ifPresent(most -> said.add("at most " + most + (most == 1 ? " job" : " jobs")));
        parts.interval.ifPresent(least -> said.add("occurrences at least " + Durations.format(least) + " apart"));
        if (!parts.kinds.isEmpty()) {
            said.add("work " + words(parts.kinds));
        }
        if (!parts.handlers.isEmpty()) {
            said.add("handlers " + words(parts.handlers));
        }
        if (!parts.lanes.isEmpty()) {
            said.add("lanes " + words(parts.lanes));
        }
        parts.payload.ifPresent(most -> said.add("payloads of at most " + most + " characters"));
        said.add(parts.shared.isEmpty() ? "nothing of the cluster's" : "of the cluster's " + words(parts.shared));
        said.add(parts.followUps.isEmpty() ? "no follow-ups elsewhere" : "follow-ups " + words(parts.followUps));
        return String.join("; ", said);
    }
}
