package dev.brume.internal.run;

import dev.brume.Event;
import dev.brume.Job;
import dev.brume.StopReason;
import dev.brume.history.Needs;
import dev.brume.history.RunRow;
import dev.brume.internal.duty.Instance;
import dev.brume.spi.Ability;
import dev.brume.spi.Completion;
import dev.brume.spi.LeasedRun;
import java.util.HashMap;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.stream.Collectors;

/** How many runs an instance may lease to itself in one transaction: what its free workers can start. */
public final class Leasing {
    private final Optional<Instance.Session> session;
    private final Ability ability;
    private final Map<String, Integer> room = new HashMap<>();

    /**
     * Counts the free workers.
     *
     * @param session to lease to; without one, nothing is leased
     */
    public Leasing(Instance instance, Optional<Instance.Session> session) {
        this.session = session;
        this.ability = instance.ability();
        if (session.isPresent()) {
            for (String lane : instance.settings().lanes().keySet()) {
                room.put(lane, instance.workers().free(lane));
            }
        }
    }

    /** Takes a free worker for a run of a job, if there is one and it knows the work; returns whose lease it is. */
    public Optional<Instance.Session> take(Job job) {
        int free = room.getOrDefault(job.lane(), 0);
        if (free < 1 || !knows(job)) {
            return Optional.empty();
        }
        room.put(job.lane(), free - 1);
        return session;
    }

    /** Takes a free worker for a run that one session owes, if it is this one's. */
    public Optional<Instance.Session> take(Job job, UUID only) {
        return session.filter(own -> own.id().equals(only)).isPresent() ? take(job) : Optional.empty();
    }

    /** {@return whether this instance takes work, and cannot do that job's} */
    public boolean leavesToOthers(Job job) {
        return session.isPresent() && !knows(job);
    }

    /** {@return the lanes of an instance that have a free worker} */
    public static Set<String> openLanes(Instance instance) {
        return instance.settings().lanes().keySet().stream()
                .filter(lane -> instance.workers().free(lane) > 0)
                .collect(Collectors.toSet());
    }

    /** {@return whether an instance that takes work has a free worker for a job's runs, and knows what they are} */
    public static boolean mayStart(Instance instance, Job job) {
        return instance.settings().lanes().containsKey(job.lane())
                && instance.workers().free(job.lane()) > 0
                && instance.ability().meets(Needs.of(job));
    }

    /** {@return how many runs it may still lease, over all lanes} */
    public int room() {
        return room.values().stream().mapToInt(Integer::intValue).sum();
    }

    public int room(String lane) {
        return room.getOrDefault(lane, 0);
    }

    /** {@return whether this instance can do a job's work at all} */
    boolean knows(Job job) {
        return ability.meets(Needs.of(job));
    }

    /** Puts committed leases into memory and hands them to the workers. */
    public static void start(Instance instance, Iterable<LeasedRun> runs) {
        for (LeasedRun run : runs) {
            instance.hold(run);
            if (!isLive(instance, run)) {
                handBack(instance, run, "the lease ended before the attempt began");
                continue;
            }
            RunRow row = run.row();
            String late = row.attempt() > 1 ? ", attempt " + row.attempt() : "";
            instance.tell(
                    Event.Kind.STARTED,
                    run.job().name(),
                    run.id(),
                    "planned " + row.owed().planned() + late,
                    event -> Aftermath.facts(event, row));
            start(instance, run);
            if (!isLive(instance, run)) {
                instance.workers().stop(run, StopReason.LEASE_LOST);
            }
        }
    }

    private static boolean isLive(Instance instance, LeasedRun run) {
        return instance.liveSession()
                .filter(session ->
                        session.id().equals(run.row().lease().orElseThrow().session()))
                .isPresent();
    }

    /** No thread may be left for it, or no memory; the others are started all the same. */
    private static void start(Instance instance, LeasedRun run) {
        try {
            instance.workers().start(run);
        } catch (RuntimeException | Error e) {
            instance.tellProblem("run " + run.id() + " could not be started and is handed back", e);
            handBack(instance, run, "could not be started: " + e);
        }
    }

    private static void handBack(Instance instance, LeasedRun run, String why) {
        long now = instance.time().nanos();
        instance.completed(Completion.handedBack(run, now, now, why));
    }
}
