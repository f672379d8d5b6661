package dev.brume.duties;

import dev.brume.Event;
import dev.brume.port.JobAdvance;
import dev.brume.port.Recount;
import dev.brume.port.Transaction;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/** Puts right what should never be wrong, and forgets old sessions. */
final class SweepDuty {
    private static final Duration SESSIONS_KEPT = Duration.ofDays(7);
    private static final int BATCH = 100;

    private final Instance instance;

    SweepDuty(Instance instance) {
        this.instance = instance;
    }

    void step() {
        List<Recount> wrong = instance.transact(SweepDuty::repair);
        for (Recount recount : wrong) {
            instance.tell(
                    Event.Kind.PROBLEM,
                    recount.row().key(),
                    "places were counted wrong and have been put right: "
                            + recount.row().used() + " taken and "
                            + recount.row().waiting() + " waiting on record, " + recount.used() + " and "
                            + recount.waiting() + " in truth");
        }
        instance.transact(tx -> tx.forgetSessions(tx.now().minus(SESSIONS_KEPT)));
    }

    private static List<Recount> repair(Transaction tx) {
        List<Recount> wrong = tx.recount(BATCH);
        List<JobAdvance> advances = new ArrayList<>();
        for (Recount recount : wrong) {
            advances.add(SettleDuty.letGo(tx, recount.row(), recount.used(), recount.waiting(), Optional.empty()));
        }
        if (!advances.isEmpty()) {
            tx.advance(advances);
        }
        return wrong;
    }
}
