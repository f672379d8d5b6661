package dev.brume.simulator;

import dev.brume.StoreException;
import dev.brume.history.History;
import dev.brume.history.JobAccount;
import dev.brume.history.LineSums;
import dev.brume.history.Timeframe;
import dev.brume.insight.internal.VirtualTime;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.retention.RollUpDuty;
import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.Map;
import java.util.SplittableRandom;

/** Somebody who sums up the ledger now and then; at any time it says the same in sums as in lines. Confined to one thread. */
final class Bookkeeper {
    private static final long SECOND = 1_000_000_000L;
    private static final Duration ALL = Duration.ofDays(3);

    private final Instance instance;
    private final History history;
    private final VirtualTime time;
    private final SplittableRandom random;

    Bookkeeper(Instance instance, History history, VirtualTime time, SplittableRandom random) {
        this.instance = instance;
        this.history = history;
        this.time = time;
        this.random = random;
    }

    /** Sums up now and then, and compares. */
    void sumUp() {
        try {
            if (random.nextInt(3) > 0) {
                new RollUpDuty(instance).step();
            }
        } catch (StoreException | FaultyStore.Crash e) {
            // What is committed is in the sums, and the rest will be.
        }
        compare();
        time.after(random.nextLong(240 * SECOND), this::sumUp);
    }

    private void compare() {
        Instant now = LineSums.hourOf(history.now());
        Timeframe all = Timeframe.between(now.minus(ALL), now.plus(ALL));
        Map<Long, JobAccount> inLines = new HashMap<>();
        history.accounts(all, account -> inLines.put(account.id(), account));
        history.accounts(all.inSums(), account -> {
            LineSums found = account.inAll();
            LineSums expected = inLines.get(account.id()).inAll();
            if (!expected.agreesWith(found)) {
                throw new InvariantChecker.Violation(
                        "ROLL-UP", account.name() + ": in sums " + found + ", in lines " + expected);
            }
        });
    }
}
