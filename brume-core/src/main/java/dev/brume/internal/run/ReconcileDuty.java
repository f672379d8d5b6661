package dev.brume.internal.run;

import dev.brume.Event;
import dev.brume.history.RunRow;
import dev.brume.internal.duty.Instance;
import dev.brume.spi.RunRelease;
import dev.brume.spi.Transaction;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;

/**
 * Compares the runs leased to this session with those in memory and gives unknown ones back.
 *
 * <p>They exist when a planning or claiming commit got through but its answer did not. Must be driven
 * from the same thread as planning and claiming, so that no lease is between commit and memory.
 */
public final class ReconcileDuty {
    private final Instance instance;

    public ReconcileDuty(Instance instance) {
        this.instance = instance;
    }

    public void step() {
        Optional<Instance.Session> session = instance.liveSession();
        if (session.isEmpty()) {
            return;
        }
        UUID own = session.get().id();
        int returned = instance.transact(tx -> giveBackUnknown(tx, own));
        if (returned > 0) {
            instance.tell(
                    Event.Kind.PROBLEM,
                    returned + " runs were leased to this instance without its knowledge;" + " given back");
        }
    }

    private int giveBackUnknown(Transaction tx, UUID own) {
        Map<Long, Long> leased = tx.leasedTo(own);
        boolean allKnown = leased.entrySet().stream().allMatch(run -> instance.holds(run.getKey(), run.getValue()));
        if (allKnown) {
            return 0;
        }
        Instant now = tx.now();
        List<RunRelease> releases = new ArrayList<>();
        for (RunRow row : tx.lockRunsOf(own, Integer.MAX_VALUE)) {
            if (!instance.holds(row.id(), row.lease().orElseThrow().fence())) {
                releases.add(RunRelease.back(row, now));
            }
        }
        return releases.isEmpty() ? 0 : tx.release(releases).size();
    }
}
