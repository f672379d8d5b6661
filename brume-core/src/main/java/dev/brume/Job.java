package dev.brume;

import dev.brume.internal.text.Payloads;
import dev.brume.internal.text.Texts;
import dev.brume.schedule.AfterEndSchedule;
import dev.brume.schedule.Counting;
import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.DayCalendar;
import dev.brume.schedule.Durations;
import dev.brume.schedule.EverySchedule;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.OnceSchedule;
import dev.brume.schedule.Schedule;
import dev.brume.schedule.Spread;
import dev.brume.schedule.TermedSchedule;
import dev.brume.schedule.Timeline;
import dev.brume.schedule.Union;
import dev.brume.schedule.Zones;
import java.time.Duration;
import java.time.Instant;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.TreeSet;
import java.util.function.UnaryOperator;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * A named piece of work with its schedules and policies.
 *
 * <p>Defaults: no description, lane {@value #MAIN_LANE}, priority 5, enabled, no time limit; {@code
 * ifBusy} skips, {@code ifFailed} gives up, {@code ifMissed} runs the latest, {@code ifLost} runs
 * again. Immutable and safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class Job {
    /** The lane of a job that names none. */
    public static final String MAIN_LANE = "main";

    /** The priority of a job that states none. */
    public static final int USUAL_PRIORITY = 5;

    /** The longest payload, in characters. */
    public static final int LONGEST_PAYLOAD = Payloads.LONGEST;

    /** How long a description may be, in characters. */
    public static final int LONGEST_DESCRIPTION = 4000;

    private static final Duration LONGEST_REQUEST = Duration.ofMinutes(1);

    private static final int MOST_SCHEDULES = 100;
    private static final int MOST_TAGS = 100;
    private static final int MOST_GATES = 9;
    private static final int MOST_FOLLOW_UPS = 16;
    private static final int MOST_LABELS = 8;
    private static final int MOST_MASKED = 32;
    private static final int LONGEST_PAYLOAD_TYPE = 60;

    private static final Pattern NAME_TO_MASK = Pattern.compile("[\\p{L}0-9_.-]{2,100}");

    /** What was gathered, as it was built; nobody changes it any more. */
    private final Builder parts;

    private @Nullable String words;

    private final Timeline timeline;

    private Job(Builder gathered) {
        parts = gathered.twin();
        timeline = Spread.of(Union.of(parts.schedules), offset());
    }

    /**
     * Begins the definition of a job.
     *
     * @param name {@code name} or {@code namespace/name}
     */
    public static Builder named(String name) {
        return new Builder(JobName.parse(name));
    }

    /** Begins the definition of a job. */
    public static Builder named(JobName name) {
        return new Builder(name);
    }

    /** {@return the job's name} */
    public JobName name() {
        return parts.name;
    }

    /** {@return what it is for, in words; empty if nobody said} */
    public String description() {
        return parts.description;
    }

    /** {@return the schedules, in the order they were given} */
    public List<Schedule> schedules() {
        return parts.schedules;
    }

    /** {@return what it does} */
    public Work work() {
        return Objects.requireNonNull(parts.work);
    }

    /** {@return how long one attempt may take} */
    public Optional<Duration> timeLimit() {
        return parts.timeLimit;
    }

    /** {@return how long after its planned time a run may still begin; one that has not begun by then is skipped} */
    public Optional<Duration> startWithin() {
        return parts.startWithin;
    }

    /** {@return the policy for occurrences due while it is busy} */
    public IfBusy ifBusy() {
        return parts.ifBusy;
    }

    /** {@return the policy after a failed attempt} */
    public IfFailed ifFailed() {
        return parts.ifFailed;
    }

    /** {@return the policy for missed occurrences} */
    public IfMissed ifMissed() {
        return parts.ifMissed;
    }

    /** {@return the policy for runs whose instance died} */
    public IfLost ifLost() {
        return parts.ifLost;
    }

    /** {@return the lane whose workers run it} */
    public String lane() {
        return parts.lane;
    }

    /** {@return its priority within the lane, 0 (last) to 9 (first)} */
    public int priority() {
        return parts.priority;
    }

    /** {@return its tags, sorted} */
    public List<String> tags() {
        return parts.tags;
    }

    /** {@return what each run is given} */
    public Optional<String> payload() {
        return parts.payload;
    }

    /** {@return the name of what its payload is, so that only instances that can read it are given the runs} */
    public Optional<String> payloadType() {
        return parts.payloadType;
    }

    /** {@return what an instance must have to be given its runs: a handler, with the type of payload that it reads, or a kind of work} */
    public String needs() {
        return parts.payloadType.isPresent() && work() instanceof Work.Registered
                ? needs(work().needs(), parts.payloadType.get())
                : work().needs();
    }

    /**
     * {@return what an instance knows that has a handler which reads a type of payload}
     *
     * @param handler its name
     * @param payloadType the name of the type
     */
    public static String needs(String handler, String payloadType) {
        return handler + "(" + payloadType + ")";
    }

    /** {@return how long one attempt may take: its time limit, and if it has none, a minute for a request and for ever for other work} */
    public Optional<Duration> longestAttempt() {
        return parts.work instanceof Work.Request
                ? parts.timeLimit.or(() -> Optional.of(LONGEST_REQUEST))
                : parts.timeLimit;
    }

    /** {@return whether its schedules owe anything} */
    public boolean enabled() {
        return parts.enabled;
    }

    /** {@return the width over which jobs are spread; each is owed later by an offset of its own below it} */
    public Optional<Duration> spread() {
        return parts.spread;
    }

    /** {@return the gates it shares with other jobs, in their order: its exclusion key and its limits} */
    public List<GateKey> gates() {
        return parts.gates;
    }

    /** {@return its shared gates of a kind, in their order} */
    public List<GateKey> gates(GateKey.Kind kind) {
        return parts.gates.stream().filter(gate -> gate.kind() == kind).toList();
    }

    /** {@return what is run after its runs} */
    public List<FollowUp> followUps() {
        return parts.followUps;
    }

    /** {@return the labels that an instance must carry to run it, sorted} */
    public List<String> requireLabels() {
        return parts.requireLabels;
    }

    /** {@return whether each occurrence is owed once by every instance that serves the lane when it is planned} */
    public boolean onEachInstance() {
        return parts.onEachInstance;
    }

    /** {@return the names whose values are kept out of the record, sorted} */
    public List<String> mask() {
        return parts.mask;
    }

    /** {@return how long the record of its runs is kept, unless the whole ledger's bounds say less} */
    public Keep keep() {
        return parts.keep;
    }

    /** {@return by when a run must have ended} */
    public Optional<Deadline> endBy() {
        return parts.endBy;
    }

    /** {@return how long it may go without a success} */
    public Optional<Duration> successWithin() {
        return parts.successWithin;
    }

    /** {@return whether it says what it takes to be late or silent, so that somebody has to look} */
    public boolean isWatched() {
        return parts.endBy.isPresent() || parts.successWithin.isPresent();
    }

    /** {@return by how much later than its rules say this job is owed: {@link Spread#offset} of its key} */
    public Duration offset() {
        return parts.spread
                .map(width -> Spread.offset(parts.name.namespace() + "/" + parts.name.name(), width))
                .orElse(Duration.ZERO);
    }

    /**
     * {@return all occurrences of all schedules, spread included} It knows nothing of schedules that go by the ends of
     * runs, and takes no notice of whether the job is enabled.
     */
    public Timeline timeline() {
        return timeline;
    }

    /** {@return the first occurrence of any schedule strictly after an instant; empty if disabled} */
    public Optional<Occurrence> next(Instant after) {
        return parts.enabled ? timeline.next(after) : Optional.empty();
    }

    /** {@return the schedule that goes by the ends of runs, if there is one and the job is enabled} */
    public Optional<Schedule> byEnds() {
        return parts.enabled
                ? parts.schedules.stream().filter(Schedule::goesByEnds).findFirst()
                : Optional.empty();
    }

    /** {@return the calendars that its schedules name, each once, as they are known} */
    public List<DayCalendar> calendars() {
        return parts.schedules.stream()
                .filter(TermedSchedule.class::isInstance)
                .map(schedule -> ((TermedSchedule) schedule).terms())
                .flatMap(terms -> Stream.concat(terms.notOn().stream(), terms.onlyOn().stream()))
                .collect(Collectors.toMap(DayCalendar::name, calendar -> calendar, (a, b) -> a, LinkedHashMap::new))
                .values()
                .stream()
                .toList();
    }

    /** {@return the same definition after a job got another name: of this job, or of one that follows it} */
    public Job afterRenaming(JobName from, JobName to) {
        Builder twin = parts.twin();
        twin.name = name().equals(from) ? to : name();
        // It may name a job as well that had the other name once and was dropped.
        boolean names =
                parts.followUps.stream().anyMatch(followUp -> followUp.job().equals(from));
        twin.followUps = parts.followUps.stream()
                .filter(followUp -> !names || !followUp.job().equals(to))
                .map(followUp -> followUp.job().equals(from) ? new FollowUp(followUp.on(), to) : followUp)
                .sorted(Comparator.comparing(FollowUp::on).thenComparing(FollowUp::job))
                .toList();
        return twin.build();
    }

    /** {@return the same job with other calendars of the same names; names that are not given stay missing} */
    public Job withCalendars(Map<String, DayCalendar> known) {
        if (calendars().isEmpty()) {
            return this;
        }
        UnaryOperator<List<DayCalendar>> resolved = calendars -> calendars.stream()
                .map(calendar -> known.getOrDefault(calendar.name(), DayCalendar.missing(calendar.name())))
                .toList();
        return withSchedules(parts.schedules.stream()
                .map(schedule -> schedule instanceof TermedSchedule termed
                        ? termed.withSame(termed.terms()
                                .withDays(
                                        resolved.apply(termed.terms().notOn()),
                                        resolved.apply(termed.terms().onlyOn()),
                                        termed.terms().ifDayOff()))
                        : schedule)
                .toList());
    }

    /** {@return the same job with what counts from its first definition counted} */
    public Job countedFrom(Counting from) {
        return withSchedules(parts.schedules.stream()
                .map(schedule -> schedule.countedFrom(from))
                .toList());
    }

    /** Begins a copy with changes; what is not set anew stays as it is. */
    public Builder copy() {
        return parts.twin();
    }

    /** {@return the same job with other schedules} */
    public Job withSchedules(List<? extends Schedule> others) {
        Builder copy = copy();
        copy.schedules = List.copyOf(others);
        return new Job(copy);
    }

    /** {@return the schedules in one English sentence} */
    public String scheduleInWords() {
        // Worked out by whoever asks first, or by several at once: it comes out the same.
        String known = words;
        if (known == null) {
            known = schedulesInWords();
            words = known;
        }
        return known;
    }

    private String schedulesInWords() {
        if (parts.schedules.isEmpty()) {
            return "When ordered";
        }
        String all = parts.schedules.stream().map(Schedule::words).collect(Collectors.joining("; "));
        String spreadOut = parts.spread.isEmpty()
                ? all
                : all + "; " + Durations.format(offset()) + " later by its spread of "
                        + Durations.format(parts.spread.get());
        String where = parts.onEachInstance ? spreadOut + ", on each instance" : spreadOut;
        return parts.enabled ? where : where + " (disabled)";
    }

    @Override
    public boolean equals(@Nullable Object other) {
        return other instanceof Job that && parts.values().equals(that.parts.values());
    }

    @Override
    public int hashCode() {
        return Objects.hash(parts.name, parts.schedules, parts.work);
    }

    @Override
    public String toString() {
        return parts.name + " (" + scheduleInWords() + ": " + work() + ")";
    }

    /** Gathers a definition. A wrong value fails where it is set. Confined to one thread. */
    public static final class Builder implements Cloneable {
        private JobName name;
        private String description = "";
        private List<Schedule> schedules = List.of();
        private @Nullable Work work;
        private Optional<Duration> timeLimit = Optional.empty();
        private Optional<Duration> startWithin = Optional.empty();
        private IfBusy ifBusy = IfBusy.skip();
        private IfFailed ifFailed = IfFailed.giveUp();
        private IfMissed ifMissed = IfMissed.runLatest();
        private IfLost ifLost = IfLost.RUN_AGAIN;
        private String lane = MAIN_LANE;
        private int priority = USUAL_PRIORITY;
        private List<String> tags = List.of();
        private Optional<String> payload = Optional.empty();
        private Optional<String> payloadType = Optional.empty();
        private boolean enabled = true;
        private Optional<Duration> spread = Optional.empty();
        private List<GateKey> gates = List.of();
        private List<FollowUp> followUps = List.of();
        private List<String> requireLabels = List.of();
        private boolean onEachInstance;
        private List<String> mask = List.of();
        private Keep keep = Keep.ALL;
        private Optional<Deadline> endBy = Optional.empty();
        private Optional<Duration> successWithin = Optional.empty();

        private Builder(JobName name) {
            this.name = name;
        }

        /** {@return a builder of its own with the same values, each of which is immutable} */
        private Builder twin() {
            try {
                return (Builder) clone();
            } catch (CloneNotSupportedException e) {
                throw new IllegalStateException(e);
            }
        }

        private List<Object> values() {
            return List.of(
                    name,
                    description,
                    schedules,
                    Objects.requireNonNull(work),
                    timeLimit,
                    List.of(ifBusy, ifFailed, ifMissed, ifLost),
                    List.of(lane, priority, tags, payload, payloadType, enabled, spread, gates, startWithin),
                    List.of(followUps, requireLabels, onEachInstance, mask, keep, endBy, successWithin));
        }

        private static <T extends Comparable<? super T>> List<T> sorted(List<T> all, T more) {
            TreeSet<T> set = new TreeSet<>(all);
            set.add(more);
            return List.copyOf(set);
        }

        /** {@return the job's name} */
        public JobName name() {
            return name;
        }

        /**
         * Says what the job is for.
         *
         * @param text at most {@value Job#LONGEST_DESCRIPTION} characters
         * @throws IllegalArgumentException if it is longer, or holds what cannot be stored
         */
        public Builder description(String text) {
            description = Texts.checked("description", text.strip(), LONGEST_DESCRIPTION);
            return this;
        }

        /** Adds a schedule. An instant that two schedules share is owed once. */
        public Builder schedule(Schedule schedule) {
            if (schedules.size() == MOST_SCHEDULES) {
                throw new IllegalArgumentException("when: more than " + MOST_SCHEDULES + " schedules of one job");
            }
            schedules = Stream.concat(schedules.stream(), Stream.of(schedule)).toList();
            return this;
        }

        /**
         * Adds a cron expression in a zone.
         *
         * @param expression five fields, or six with seconds first, or a word such as {@code @daily}
         * @param zone an IANA region such as {@code Europe/Lisbon}, {@code UTC}, or an offset
         * @throws dev.brume.schedule.ScheduleSyntaxException if either cannot be read
         */
        public Builder cron(String expression, String zone) {
            return schedule(CronSchedule.parse(expression, Zones.parse(zone)));
        }

        /**
         * Adds a fixed grid of elapsed time, at least one second apart.
         *
         * @param interval counted from the epoch, 1s to 36525d
         * @throws dev.brume.schedule.ScheduleSyntaxException if it is outside that range
         */
        public Builder every(Duration interval) {
            return schedule(EverySchedule.of(interval));
        }

        /** Adds a single instant. */
        public Builder once(Instant instant) {
            return schedule(OnceSchedule.at(instant, Zones.parse("UTC")));
        }

        /** Makes the job run a program. */
        public Builder program(String... command) {
            return work(new Work.Program(List.of(command), Map.of(), Optional.empty()));
        }

        /** Makes the job call the handler that instances have registered under a name. */
        public Builder handler(String name) {
            return work(new Work.Registered(name));
        }

        /** Sets what the job does. */
        public Builder work(Work what) {
            work = Objects.requireNonNull(what, "what");
            return this;
        }

        /**
         * Limits how long one attempt may take.
         *
         * @param limit from 1ms to 36525d; an attempt that takes longer is stopped and counts as TIMED_OUT
         * @throws IllegalArgumentException if it is outside that range
         */
        public Builder timeLimit(Duration limit) {
            timeLimit = Optional.of(Durations.checked("timeLimit", limit, Duration.ofMillis(1), Durations.LONGEST));
            return this;
        }

        /**
         * Sets how long after its planned time a run may still begin, whatever kept it: no worker free, no instance that
         * serves its lane, a place that did not come free. Runs ordered by hand are not bound by it.
         *
         * @param limit from 1s to 36525d, inclusive
         * @throws IllegalArgumentException if it is outside that range
         */
        public Builder startWithin(Duration limit) {
            startWithin =
                    Optional.of(Durations.checked("startWithin", limit, Duration.ofSeconds(1), Durations.LONGEST));
            return this;
        }

        /**
         * Adds an occurrence some time after the end of each run, the first at once.
         *
         * @param delay from an end to the next occurrence, 1s to 36525d
         * @throws dev.brume.schedule.ScheduleSyntaxException if it is outside that range
         */
        public Builder afterEnd(Duration delay) {
            return schedule(AfterEndSchedule.of(delay, Zones.parse("UTC")));
        }

        /**
         * Spreads this job and others like it over a while: it is owed later by an offset that only depends on its
         * key.
         *
         * @param width from one second to a day; below the shortest interval of every schedule
         * @throws IllegalArgumentException if it is outside that range; one that is too wide for the schedules is refused by {@link #build}
         */
        public Builder spread(Duration width) {
            spread = Optional.of(Durations.checked("spread", width, Duration.ofSeconds(1), Duration.ofDays(1)));
            return this;
        }

        /** Sets the policy for occurrences due while the job is busy. */
        public Builder ifBusy(IfBusy policy) {
            ifBusy = Objects.requireNonNull(policy, "policy");
            return this;
        }

        /** Sets the policy after a failed attempt. */
        public Builder ifFailed(IfFailed policy) {
            ifFailed = Objects.requireNonNull(policy, "policy");
            return this;
        }

        /** Sets the policy for missed occurrences. */
        public Builder ifMissed(IfMissed policy) {
            ifMissed = Objects.requireNonNull(policy, "policy");
            return this;
        }

        /** Sets the policy for runs whose instance died. */
        public Builder ifLost(IfLost policy) {
            ifLost = Objects.requireNonNull(policy, "policy");
            return this;
        }

        /** Sets the lane whose workers run the job. */
        public Builder lane(String chosen) {
            if (!JobName.isName(chosen)) {
                throw new IllegalArgumentException(
                        "lane: '" + chosen + "' is not a name (expected " + JobName.RULE + ")");
            }
            lane = chosen;
            return this;
        }

        /**
         * Sets the priority within the lane, 0 (last) to 9 (first).
         *
         * @param level 0 to 9, 5 unless it is set
         * @throws IllegalArgumentException if it is outside that range
         */
        public Builder priority(int level) {
            if (level < 0 || level > 9) {
                throw new IllegalArgumentException("priority: " + level + " is outside 0 to 9");
            }
            priority = level;
            return this;
        }

        /**
         * Adds a tag.
         *
         * @throws IllegalArgumentException if it is not a name, or there are 100 already
         */
        public Builder tag(String tag) {
            if (tags.size() == MOST_TAGS) {
                throw new IllegalArgumentException("tags: more than " + MOST_TAGS + " of one job");
            }
            if (!JobName.isName(tag)) {
                throw new IllegalArgumentException("tags: '" + tag + "' is not a name (expected " + JobName.RULE + ")");
            }
            tags = sorted(tags, tag);
            return this;
        }

        /**
         * Sets what each run is given.
         *
         * @param text at most {@value Job#LONGEST_PAYLOAD} characters
         * @throws IllegalArgumentException if it is longer
         */
        public Builder payload(String text) {
            payload = Optional.of(Payloads.checked(text));
            return this;
        }

        /**
         * Names what the payload is, such as {@code manifest-2}. An instance whose handler does not read it leaves the runs to
         * others, as happens while a new version is rolled out.
         *
         * @param type at most 60 characters
         * @throws IllegalArgumentException if it is no such name
         */
        public Builder payloadType(String type) {
            if (!JobName.isName(type) || type.length() > LONGEST_PAYLOAD_TYPE) {
                throw new IllegalArgumentException("payloadType: '" + type + "' is not a name (expected " + JobName.RULE
                        + ", at most " + LONGEST_PAYLOAD_TYPE + ")");
            }
            payloadType = Optional.of(type);
            return this;
        }

        /**
         * Makes runs of this job and of all others that name the same key exclude each other; {@code ifBusy} says what becomes
         * of an occurrence meanwhile.
         *
         * @param key of this job's namespace, or {@code /name} for one that jobs of all namespaces share
         * @throws IllegalArgumentException if it is no name, or one of another namespace
         */
        public Builder exclusive(String key) {
            List<GateKey> limits = gates.stream()
                    .filter(gate -> gate.kind() == GateKey.Kind.LIMIT)
                    .toList();
            gates = sorted(limits, gate(GateKey.Kind.EXCLUSIVE, key));
            return this;
        }

        /**
         * Puts this job under a limit that it shares with all others that name it. An occurrence that finds the limit full
         * waits, whatever {@code ifBusy} says, as it would for a free worker.
         *
         * @param limit of this job's namespace, or {@code /name} for one that jobs of all namespaces share; defined, or being
         * defined along with the job
         * @throws IllegalArgumentException if it is no name, one of another namespace, or one of more than eight
         */
        public Builder limit(String limit) {
            gates = sorted(gates, gate(GateKey.Kind.LIMIT, limit));
            if (gates.size() > MOST_GATES) {
                throw new IllegalArgumentException("limits: more than " + (MOST_GATES - 1) + " of one job");
            }
            return this;
        }

        private GateKey gate(GateKey.Kind kind, String text) {
            return new GateKey(kind, SharedName.in(name.namespace(), text, SharedName.what(kind)));
        }

        /**
         * Adds a job that is run when a run of this one has ended. Its run is given what this one returned: {@link Run#parent}.
         *
         * @param on which ends it follows
         * @param job {@code name}, in this job's namespace, or {@code namespace/name}; defined, or being defined along with
         * this one
         * @throws IllegalArgumentException if it is this job, named twice, or one of more than 16
         */
        public Builder followUp(FollowUp.On on, String job) {
            JobName target = job.contains("/") ? JobName.parse(job) : new JobName(name.namespace(), job);
            if (target.equals(name)) {
                throw new IllegalArgumentException("followUps: a job cannot follow itself; it would never end");
            }
            if (followUps.stream().anyMatch(other -> other.job().equals(target))) {
                throw new IllegalArgumentException("followUps: names " + target + " twice");
            }
            if (followUps.size() == MOST_FOLLOW_UPS) {
                throw new IllegalArgumentException("followUps: more than " + MOST_FOLLOW_UPS + " of one job");
            }
            followUps = Stream.concat(followUps.stream(), Stream.of(new FollowUp(on, target)))
                    .sorted(Comparator.comparing(FollowUp::on).thenComparing(FollowUp::job))
                    .toList();
            return this;
        }

        /**
         * Lets only instances run it that carry a label; of several labels, all.
         *
         * @param label of instances, at most eight of one job
         * @throws IllegalArgumentException if it is no name, or one too many
         */
        public Builder requireLabel(String label) {
            if (!JobName.isName(label)) {
                throw new IllegalArgumentException(
                        "requireLabels: '" + label + "' is not a name (expected " + JobName.RULE + ")");
            }
            requireLabels = sorted(requireLabels, label);
            if (requireLabels.size() > MOST_LABELS) {
                throw new IllegalArgumentException("requireLabels: more than " + MOST_LABELS + " labels of one job");
            }
            return this;
        }

        /**
         * Makes each occurrence be owed once by every instance that is live and serves the lane when it is planned, such as
         * to empty a cache. {@code ifBusy} counts each instance's runs by themselves. The run of an instance that dies or
         * leaves is LOST and never moves. What is ordered, by hand or as a one-off or follow-up, is a single run of any
         * instance.
         *
         */
        public Builder onEachInstance() {
            onEachInstance = true;
            return this;
        }

        /**
         * Keeps the value behind a name out of the record: in payloads, results, errors, messages and output. See {@link Mask}.
         *
         * @param secret of a field, a parameter or an environment variable of the instances
         * @throws IllegalArgumentException if it is no such name, or one of more than 32
         */
        public Builder mask(String secret) {
            if (!NAME_TO_MASK.matcher(secret).matches()) {
                throw new IllegalArgumentException("mask: '" + secret
                        + "' is not a name (expected letters, digits, '_', '-' and '.', 2 to 100 characters)");
            }
            mask = sorted(mask, secret);
            if (mask.size() > MOST_MASKED) {
                throw new IllegalArgumentException("mask: more than " + MOST_MASKED + " names of one job");
            }
            return this;
        }

        /** Sets how long the record of its runs is kept; everything unless it is set. */
        public Builder keep(Keep bounds) {
            keep = Objects.requireNonNull(bounds, "bounds");
            return this;
        }

        /** Sets by when a run must have ended; nothing is stopped when it is missed, but told. */
        public Builder endBy(Deadline deadline) {
            endBy = Optional.of(deadline);
            return this;
        }

        /**
         * Sets how long it may go without a success before that is told, whoever is to blame.
         *
         * @param length from a minute
         * @throws IllegalArgumentException if it is shorter
         */
        public Builder successWithin(Duration length) {
            successWithin =
                    Optional.of(Durations.checked("successWithin", length, Duration.ofMinutes(1), Durations.LONGEST));
            return this;
        }

        /** Sets whether the schedules owe anything. */
        public Builder enabled(boolean on) {
            enabled = on;
            return this;
        }

        /**
         * Creates the job.
         *
         * @throws IllegalStateException if it has no work
         * @throws IllegalArgumentException if the spread is not below the shortest interval, or more than one
         *     schedule goes by the ends of runs
         */
        public Job build() {
            if (work == null) {
                throw new IllegalStateException("job '" + name + "' has no work (set a program or a handler)");
            }
            checkSpread();
            checkOnEachInstance();
            if (schedules.stream().filter(Schedule::goesByEnds).count() > 1) {
                throw new IllegalArgumentException("when: only one schedule of a job may be afterEnd");
            }
            return new Job(this);
        }

        private void checkOnEachInstance() {
            if (onEachInstance && !gates.isEmpty()) {
                throw new IllegalArgumentException(
                        "onEachInstance: does not go together with exclusive and limits, which hold across instances");
            }
            if (onEachInstance && ifBusy.choice() != IfBusy.Choice.SKIP && ifBusy.choice() != IfBusy.Choice.ALONGSIDE) {
                throw new IllegalArgumentException("onEachInstance: goes together with ifBusy skip and alongside only");
            }
            if (onEachInstance && schedules.stream().anyMatch(Schedule::goesByEnds)) {
                throw new IllegalArgumentException(
                        "onEachInstance: does not go together with afterEnd, which waits for a single run");
            }
        }

        private void checkSpread() {
            Optional<Schedule> shortest = schedules.stream().min(Comparator.comparing(Schedule::smallestInterval));
            if (spread.isPresent()
                    && shortest.isPresent()
                    && spread.get().compareTo(shortest.get().smallestInterval()) >= 0) {
                throw new IllegalArgumentException("spread: " + Durations.format(spread.get())
                        + " is not below the shortest interval, "
                        + Durations.format(shortest.get().smallestInterval()) + " of '" + shortest.get() + "'");
            }
        }
    }
}
