package dev.brume.internal.run;

import dev.brume.GateKey;
import dev.brume.StoreException;
import dev.brume.internal.duty.Instance;
import dev.brume.spi.Transaction;
import java.time.Instant;
import java.util.List;

/** Lets runs go that waited for a rate, when it lets more begin. Confined to the thread of one duty. */
public final class Openings {
    private static final int MOST = 100;

    private final Instance instance;

    public Openings(Instance instance) {
        this.instance = instance;
    }

    /**
     * Looks at gates that opened; returns how many runs go.
     *
     * @param now the database's clock
     */
    public int step(Instant now) {
        try {
            int going = instance.transact(tx -> step(tx, now));
            if (going > 0) {
                instance.call();
            }
            return going;
        } catch (StoreException e) {
            // A job whose row somebody keeps locked must not stop the round that looks.
            instance.tellProblem("runs that wait for a rate could not be let go yet, will try again", e);
            return 0;
        }
    }

    private int step(Transaction tx, Instant now) {
        List<GateKey> opened = tx.gates().opened(now, MOST);
        if (opened.isEmpty()) {
            return 0;
        }
        Releases releases = Releases.lock(instance, tx, List.of(), opened);
        int going = releases.letGo();
        releases.looked(opened, going > 0);
        releases.write();
        return going;
    }
}
