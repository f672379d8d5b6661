package dev.brume.insight.rehearsal;

import dev.brume.Brume;
import dev.brume.DefinitionSet;
import dev.brume.JobName;
import dev.brume.RunState;
import dev.brume.history.JobView;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.insight.internal.Effort;
import dev.brume.insight.internal.VirtualInstance;
import dev.brume.insight.internal.VirtualOffice;
import dev.brume.insight.internal.VirtualTime;
import dev.brume.insight.watch.Vigil;
import dev.brume.internal.duty.Settings;
import dev.brume.memory.MemoryStore;
import dev.brume.spi.Store;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.SplittableRandom;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

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
    private static final Duration LIVELY_POLL = Duration.ofSeconds(30);
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
        return of(set, crew, takes, from, length, Mishaps.NONE).foresight();
    }

    /**
     * What was foreseen, and what came of what went wrong.
     *
     * @param foresight what was foreseen
     * @param damage what went wrong
     */
    public record UnderTrouble(Foresight foresight, Damage damage) {}

    /**
     * Rehearses while something goes wrong: instances die, the database is away, work takes longer. What rules of the set ask for is told, to nobody.
     *
     * @param set the definitions, all that there are
     * @param crew who works; those that die are among them, under their names
     * @param takes how long the work of a job took before, one of which each run takes; at least one
     * @param from when it begins
     * @param length for how long
     * @param mishaps what goes wrong
     * @throws IllegalArgumentException if the definitions cannot be put in force together, or more instances die than there are
     */
    public static UnderTrouble of(
            DefinitionSet set,
            Crew crew,
            Function<JobName, List<Duration>> takes,
            Instant from,
            Duration length,
            Mishaps mishaps) {
        VirtualTime time = new VirtualTime(from);
        Gathering gathering = new Gathering();
        DamageReport damage = new DamageReport();
        MemoryStore store = new MemoryStore(
                time,
                KEPT,
                line -> {
                    gathering.line(line);
                    damage.line(line);
                },
                span -> {
                    gathering.span(span);
                    damage.span(span);
                });
        SplittableRandom chance = new SplittableRandom(SEED);
        Map<JobName, List<Duration>> known = new HashMap<>();
        Store reached = mishaps.outages().isEmpty()
                ? store
                : AwayStore.of(
                        store, () -> mishaps.outages().stream().anyMatch(outage -> outage.holds(time.instant())));
        VirtualOffice office = new VirtualOffice(
                reached,
                time,
                run -> {
                    List<Duration> took = known.computeIfAbsent(run.job().name(), takes);
                    Duration usual = took.get(took.size() == 1 ? 0 : chance.nextInt(took.size()));
                    return Effort.of(
                            slowed(usual, mishaps.slower().get(run.job().name())));
                },
                event -> {},
                SEED);
        boolean tells =
                set.telling().filter(telling -> !telling.rules().isEmpty()).isPresent();
        if (tells) {
            office.telling(new VirtualInstance.Telling(damage, Optional.of(new Vigil())));
        }
        try (Brume brume = Brume.on(store)
                .withoutLog()
                .instance("rehearsal")
                .time(time)
                .batch(KEPT)
                .build()) {
            brume.define(set);
            damage.watchDeadlines(brume.history().jobs());
            boolean lively =
                    tells || !mishaps.losses().isEmpty() || !mishaps.outages().isEmpty();
            for (String name : names(crew, mishaps)) {
                VirtualInstance instance =
                        office.start(settings(name, crew, lively)).knowing(set.jobs());
                mishaps.losses().stream()
                        .filter(loss ->
                                loss.instance().equals(name) && !loss.at().isBefore(from))
                        .forEach(loss -> time.after(time.nanosAt(loss.at()), instance::die));
            }
            office.look();
            office.advanceTo(from.plus(length));
            List<JobView> jobs = brume.history().jobs();
            Foresight foresight = gathering.foresight(
                    jobs, live(brume, RunState.PLANNED), live(brume, RunState.RUNNING), crew, from, length);
            return new UnderTrouble(foresight, damage.damage(brume.history(), jobs, from, from.plus(length)));
        }
    }

    private static Duration slowed(Duration usual, @Nullable Double factor) {
        return factor == null ? usual : Duration.ofMillis((long) (usual.toMillis() * factor));
    }

    /** Those that die bear their names; the others are numbered. */
    private static List<String> names(Crew crew, Mishaps mishaps) {
        List<String> names = new ArrayList<>(
                mishaps.losses().stream().map(Mishaps.Loss::instance).distinct().toList());
        if (names.size() > crew.instances()) {
            throw new IllegalArgumentException(names.size() + " instances are to die, and there are " + crew.instances()
                    + " (say how many there are: --instances N)");
        }
        for (int i = 1; names.size() < crew.instances(); i++) {
            if (!names.contains("instance-" + i)) {
                names.add("instance-" + i);
            }
        }
        return names;
    }

    private static List<RunView> live(Brume brume, RunState state) {
        return brume.history().runs(RunFilter.newest(Integer.MAX_VALUE).withState(state));
    }

    /** Where nobody dies and nothing is told, there is no need to look often. */
    private static Settings settings(String name, Crew crew, boolean lively) {
        return new Settings(
                name,
                "rehearsal",
                1,
                crew.lanes(),
                crew.labels(),
                lively ? Settings.LEASE : LEASE,
                lively ? LIVELY_POLL : POLL,
                Settings.BATCH,
                Settings.ownTzdata());
    }
}
