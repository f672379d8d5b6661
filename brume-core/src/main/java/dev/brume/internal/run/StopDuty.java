package dev.brume.internal.run;

import dev.brume.Event;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.StopReason;
import dev.brume.history.RunRow;
import dev.brume.history.RunView;
import dev.brume.internal.duty.Instance;
import dev.brume.spi.LeasedRun;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/**
 * Stops runs that someone asked to have stopped: those it holds are told, once; those that nobody holds any more are ended.
 * Runs that other instances hold are left to them.
 */
public final class StopDuty {
    private final Instance instance;
    private final Settling settling;
    private final Set<Long> told = new HashSet<>();

    public StopDuty(Instance instance) {
        this.instance = instance;
        this.settling = new Settling(instance);
    }

    /** Looks at all that are to be stopped; returns how many it ended. */
    public int step() {
        Map<Long, StopReason> asked = instance.transact(tx -> tx.orders().askedToStop());
        Map<Long, LeasedRun> held = new HashMap<>();
        instance.held().forEach(run -> held.put(run.id(), run));
        told.retainAll(held.keySet());
        Map<Long, StopReason> others = new HashMap<>(asked);
        asked.forEach((id, why) -> {
            LeasedRun run = held.get(id);
            if (run != null) {
                others.remove(id);
                if (told.add(id)) {
                    instance.workers().stop(run, why);
                }
            }
        });
        return others.isEmpty() ? 0 : endThose(others);
    }

    private int endThose(Map<Long, StopReason> asked) {
        Map<Long, StopReason> ended = new LinkedHashMap<>();
        instance.transact(tx -> {
            ended.clear();
            List<Long> over = new ArrayList<>();
            asked.forEach((id, why) -> {
                Optional<RunRow> run = tx.orders().find(id);
                if (run.isEmpty()) {
                    over.add(id);
                } else if (run.get().lease().isEmpty() && tx.orders().endWaiting(id, Outcome.CANCELLED, reason(why))) {
                    over.add(id);
                    ended.put(id, why);
                }
            });
            tx.orders().forgetStops(over);
            return null;
        });
        if (!ended.isEmpty()) {
            settling.settle(ended.keySet());
            ended.forEach((run, why) ->
                    instance.store().history().run(run).ifPresent(view -> tellEnded(instance, view, reason(why))));
        }
        return ended.size();
    }

    /** Tells of a run that was ended while it waited. */
    public static void tellEnded(Instance instance, RunView run, Reason why) {
        Instant planned = run.owed().planned();
        instance.tell(
                Event.Kind.CANCELLED,
                run.job(),
                run.id(),
                why + " while it waited, planned " + planned,
                event -> event.withOutcome(Outcome.CANCELLED).withReason(why).withPlanned(planned));
    }

    static Reason reason(StopReason why) {
        return why == StopReason.SUPERSEDED ? Reason.SUPERSEDED : Reason.BY_HAND;
    }
}
