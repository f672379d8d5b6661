package dev.brume.internal.run;

import dev.brume.Event;
import dev.brume.Job;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.history.RunRow;
import dev.brume.history.VersionKey;
import dev.brume.internal.duty.Instance;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;

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
        Map<VersionKey, Job> jobs = instance.transact(tx -> {
            skipped.clear();
            for (RunRow run : tx.orders().tooLate(instance.settings().batch())) {
                if (tx.orders().endWaiting(run.id(), Outcome.SKIPPED, Reason.TOO_LATE)) {
                    skipped.add(run);
                }
            }
            return instance.definitions()
                    .get(tx, skipped.stream().map(RunRow::versionKey).toList());
        });
        if (!skipped.isEmpty()) {
            settling.settle(skipped.stream().map(RunRow::id).toList());
            skipped.forEach(run -> tell(run, Optional.ofNullable(jobs.get(run.versionKey()))));
        }
        return skipped.size();
    }

    private void tell(RunRow run, Optional<Job> job) {
        String text = Reason.TOO_LATE + ", planned " + run.owed().planned();
        job.ifPresentOrElse(
                known -> instance.tell(
                        Event.Kind.SKIPPED,
                        known.name(),
                        run.id(),
                        text,
                        event -> event.withOutcome(Outcome.SKIPPED)
                                .withReason(Reason.TOO_LATE)
                                .withPlanned(run.owed().planned())),
                () -> instance.tell(Event.Kind.SKIPPED, "run " + run.id() + ": " + text));
    }
}
