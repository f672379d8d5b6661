package dev.brume.internal.run;

import dev.brume.Job;
import dev.brume.history.RunRow;
import dev.brume.history.VersionKey;
import dev.brume.internal.duty.Instance;
import dev.brume.spi.Claim;
import dev.brume.spi.LeasedRun;
import dev.brume.spi.RunRelease;
import dev.brume.spi.Transaction;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * Takes waiting runs for free workers: by priority, and of each eight workers of a lane one for the run that has waited
 * longest, whatever its priority. So a low priority waits longer, but never for ever.
 */
public final class ClaimDuty {
    private static final int ONE_OF = 8;

    private final Instance instance;
    private final Map<String, Integer> taken = new HashMap<>();

    public ClaimDuty(Instance instance) {
        this.instance = instance;
    }

    /** Claims for every lane with free workers; returns how many runs it got. */
    public int step(Optional<Instant> hint) {
        Optional<Instance.Session> session = instance.liveSession();
        Leasing leasing = new Leasing(instance, session);
        List<String> lanes = instance.settings().lanes().keySet().stream()
                .filter(lane -> leasing.room(lane) > 0)
                .sorted()
                .toList();
        if (session.isEmpty() || lanes.isEmpty()) {
            return 0;
        }
        int claimed = 0;
        for (String lane : lanes) {
            int limit = Math.min(leasing.room(lane), instance.settings().batch());
            List<LeasedRun> runs = instance.transact(tx -> claim(tx, session.get(), lane, hint, limit));
            Leasing.start(instance, runs);
            taken.merge(lane, runs.size(), (before, more) -> (before + more) % ONE_OF);
            claimed += runs.size();
        }
        return claimed;
    }

    private List<LeasedRun> claim(
            Transaction tx, Instance.Session session, String lane, Optional<Instant> hint, int limit) {
        if (tx.sessions().hold(session.lease()).isEmpty()) {
            return List.of();
        }
        long nanos = instance.time().nanos();
        List<RunRow> rows =
                claim(tx, new Claim(session.id(), session.epoch(), lane, instance.ability(), hint, limit, false));
        Map<VersionKey, Job> jobs = instance.definitions()
                .get(tx, rows.stream().map(RunRow::versionKey).toList());
        List<LeasedRun> runs = new ArrayList<>();
        List<RunRow> unreadable = new ArrayList<>();
        for (RunRow row : rows) {
            Job job = jobs.get(row.versionKey());
            if (job == null) {
                instance.tellUnreadable("run " + row.id());
                unreadable.add(row);
            } else if (!instance.ability().handlers().contains(job.needs())) {
                // The row asks for less than the definition: what the definition says counts.
                instance.tellUnknown(job);
                unreadable.add(row);
            } else {
                runs.add(new LeasedRun(row, job, instance.settings().instance(), nanos));
            }
        }
        putBack(tx, unreadable);
        return runs;
    }

    private List<RunRow> claim(Transaction tx, Claim claim) {
        int longest = (taken.getOrDefault(claim.lane(), 0) + claim.limit()) / ONE_OF;
        int first = claim.limit() - longest;
        List<RunRow> rows = new ArrayList<>(first > 0 ? tx.claim(claim.first(first)) : List.of());
        if (longest > 0 && rows.size() == first) {
            rows.addAll(tx.claim(claim.longestWaiting(longest)));
        }
        return rows;
    }

    /** Leaves runs to whoever can read what they go by, and do it. */
    private void putBack(Transaction tx, List<RunRow> unreadable) {
        if (unreadable.isEmpty()) {
            return;
        }
        Instant again = tx.now().plus(instance.settings().poll());
        tx.release(unreadable.stream().map(row -> RunRelease.back(row, again)).toList());
    }
}
