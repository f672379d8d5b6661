package dev.brume.insight.rehearsal;

import dev.brume.Brume;
import dev.brume.DefinitionSet;
import dev.brume.JobName;
import dev.brume.RunState;
import dev.brume.history.JobView;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.insight.internal.Effort;
import dev.brume.insight.internal.VirtualOffice;
import dev.brume.insight.internal.VirtualTime;
import dev.brume.internal.duty.Settings;
import dev.brume.memory.MemoryStore;
import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.SplittableRandom;
import java.util.function.Function;

/**
 * Lives through the time to come: the engine's own duties, on the definitions given, with work that takes as long as it is known
 * or said to take.
 *
 * <p>What is decided is decided as it will be: overlaps, waits, limits, spread, priorities, lanes. What is made up is how long
 * work takes (one of the durations known, at random but the same for the same seed), that it always does well, and that no
 * instance dies. Orders by hand and one-offs are not foreseen. Stateless.
 *
 * @since 0.1.0
 */
public final class Rehearsal {
    private static final Duration LEASE = Duration.ofDays(3650);
    private static final Duration POLL = Duration.ofHours(1);
    private static final int KEPT = 1000;
    private static final long SEED = 1;

    private Rehearsal() {}

    /**
     * Rehearses.
     *
     * @param set the definitions, all that there are
     * @param crew who works
     * @param takes how long the work of a job took before, one of which each run takes; at least one
     * @param from when it begins
     * @param length for how long
     * @throws IllegalArgumentException if the definitions cannot be put in force together
     */
    public static Foresight of(
            DefinitionSet set, Crew crew, Function<JobName, List<Duration>> takes, Instant from, Duration length) {
        VirtualTime time = new VirtualTime(from);
        Gathering gathering = new Gathering();
        MemoryStore store = new MemoryStore(time, KEPT, gathering::line, gathering::span);
        SplittableRandom chance = new SplittableRandom(SEED);
        Map<JobName, List<Duration>> known = new HashMap<>();
        VirtualOffice office = new VirtualOffice(
                store,
                time,
                run -> {
                    List<Duration> took = known.computeIfAbsent(run.job().name(), takes);
                    return Effort.of(took.get(took.size() == 1 ? 0 : chance.nextInt(took.size())));
                },
                event -> {},
                SEED);
        try (Brume brume = Brume.on(store)
                .withoutLog()
                .instance("rehearsal")
                .time(time)
                .batch(KEPT)
                .build()) {
            brume.define(set);
            for (int i = 1; i <= crew.instances(); i++) {
                office.start(settings("instance-" + i, crew)).knowing(set.jobs());
            }
            office.look();
            office.advanceTo(from.plus(length));
            List<JobView> jobs = brume.history().jobs();
            return gathering.foresight(
                    jobs, live(brume, RunState.PLANNED), live(brume, RunState.RUNNING), crew, from, length);
        }
    }

    private static List<RunView> live(Brume brume, RunState state) {
        return brume.history().runs(RunFilter.newest(Integer.MAX_VALUE).withState(state));
    }

    private static Settings settings(String name, Crew crew) {
        return new Settings(
                name, "rehearsal", 1, crew.lanes(), crew.labels(), LEASE, POLL, Settings.BATCH, Settings.ownTzdata());
    }
}
