package dev.brume.internal.run;

import dev.brume.Event;
import dev.brume.StoreException;
import dev.brume.internal.duty.Duty;
import dev.brume.internal.duty.Instance;
import dev.brume.spi.LeasedRun;
import dev.brume.spi.PrintedNote;
import dev.brume.spi.ProgressNote;
import java.time.Duration;
import java.util.List;
import java.util.Map;

/** Writes how far runs are, and what they print meanwhile; says nothing to the store while nobody has anything to say. */
public final class ProgressDuty implements Duty {
    private static final Duration PAUSE = Duration.ofSeconds(1);

    private final Instance instance;

    /** Creates the duty. */
    public ProgressDuty(Instance instance) {
        this.instance = instance;
    }

    @Override
    public Duration step() {
        Map<LeasedRun, ProgressNote> notes = instance.takeNotes();
        List<PrintedNote> printed = instance.printing().take();
        if (notes.isEmpty() && printed.isEmpty()) {
            return PAUSE;
        }
        try {
            List<ProgressNote> sorted = notes.values().stream()
                    .sorted((a, b) -> Long.compare(a.lease().run(), b.lease().run()))
                    .toList();
            instance.transact(tx -> {
                if (!sorted.isEmpty()) {
                    tx.progress(sorted);
                }
                if (!printed.isEmpty()) {
                    tx.printed(printed);
                }
                return null;
            });
            notes.forEach((run, note) -> instance.tell(
                    Event.Kind.PROGRESS,
                    run.job().name(),
                    run.id(),
                    note.progress().toString()));
        } catch (StoreException e) {
            instance.tellProblem("progress could not be written; the next will be", e);
        }
        return PAUSE;
    }
}
