package dev.brume.internal.run;

import dev.brume.Event;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.history.RunRow;
import dev.brume.internal.duty.Instance;
import java.util.ArrayList;
import java.util.List;

/** Skips runs that could not begin in time: whatever kept them, they are not wanted any more. */
public final class LateDuty {
    private final Instance instance;
    private final Settling settling;

    public LateDuty(Instance instance) {
        this.instance = instance;
        this.settling = new Settling(instance);
    }

    /** Skips a batch; returns how many it was. */
    public int step() {
        List<RunRow> skipped = new ArrayList<>();
        instance.transact(tx -> {
            skipped.clear();
            for (RunRow run : tx.orders().tooLate(instance.settings().batch())) {
                if (tx.orders().endWaiting(run.id(), Outcome.SKIPPED, Reason.TOO_LATE)) {
                    skipped.add(run);
                }
            }
            return null;
        });
        if (!skipped.isEmpty()) {
            settling.settle(skipped.stream().map(RunRow::id).toList());
            skipped.forEach(run -> instance.tell(
                    Event.Kind.SKIPPED,
                    "run " + run.id() + ": " + Reason.TOO_LATE + ", planned "
                            + run.owed().planned()));
        }
        return skipped.size();
    }
}
