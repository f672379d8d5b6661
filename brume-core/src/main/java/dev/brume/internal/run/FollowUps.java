package dev.brume.internal.run;

import dev.brume.Event;
import dev.brume.FollowUp;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.StoreException;
import dev.brume.history.Change;
import dev.brume.history.JobRow;
import dev.brume.history.VersionKey;
import dev.brume.internal.duty.Instance;
import dev.brume.spi.OneOffOrder;
import dev.brume.spi.Settle;
import dev.brume.spi.Transaction;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/**
 * Orders what follows ends, as the definitions say that the runs were under.
 *
 * <p>An order is a one-off that is due at once, so that settling locks no job beyond those of the ends; whoever makes a run
 * of it decides about its places.
 */
final class FollowUps {
    private final Instance instance;

    FollowUps(Instance instance) {
        this.instance = instance;
    }

    private record Order(Settle end, FollowUp followUp) {}

    /**
     * Orders; returns how many runs.
     *
     * @param tales receives what is to be told once all is committed
     */
    int order(Transaction tx, List<Settle> ends, List<Runnable> tales) {
        List<Order> orders = orders(tx, ends);
        if (orders.isEmpty()) {
            return 0;
        }
        Set<JobName> targets = new LinkedHashSet<>();
        orders.forEach(order -> targets.add(order.followUp().job()));
        Map<JobName, JobRow> rows = tx.findJobs(targets);
        Instant now = tx.now();
        List<Long> numbers = tx.take(orders.size()).ids();
        int ordered = 0;
        for (int i = 0; i < orders.size(); i++) {
            Order order = orders.get(i);
            JobName target = order.followUp().job();
            JobRow row = rows.get(target);
            if (row == null) {
                reportMissing(tx, order, tales);
            } else if (tx.oneOffs()
                    .add(OneOffOrder.following(
                            numbers.get(i),
                            row.id(),
                            order.end().run(),
                            now,
                            order.end().end().flatMap(Settle.End::trace)))) {
                ordered++;
            }
        }
        return ordered;
    }

    private List<Order> orders(Transaction tx, List<Settle> ends) {
        List<VersionKey> keys = ends.stream()
                .filter(end -> end.version() > 0)
                .map(FollowUps::versionKey)
                .distinct()
                .toList();
        Map<VersionKey, Job> jobs = instance.definitions().get(tx, keys);
        List<Order> orders = new ArrayList<>();
        for (Settle end : ends) {
            Job job = jobs.get(versionKey(end));
            if (job == null && end.version() > 0) {
                instance.tellUnreadable("run " + end.run());
                throw new StoreException(
                        StoreException.Trouble.OTHER, "run " + end.run() + " is left to newer instances", null);
            }
            List<FollowUp> all = job == null ? List.of() : job.followUps();
            all.stream()
                    .filter(followUp -> followUp.follows(end.end().orElseThrow().outcome()))
                    .forEach(followUp -> orders.add(new Order(end, followUp)));
        }
        return orders;
    }

    private static VersionKey versionKey(Settle end) {
        return new VersionKey(end.job(), end.version());
    }

    /** The job was dropped since: there is none to write a line of, so the change log has it. */
    private void reportMissing(Transaction tx, Order order, List<Runnable> tales) {
        JobName target = order.followUp().job();
        String what =
                "run " + order.end().run() + " should be followed by " + target + ", which is not defined any more";
        tx.addChanges(List.of(new Change(
                "NOT_FOLLOWED",
                instance.settings().instance(),
                instance.settings().host(),
                Optional.of(target),
                Optional.empty(),
                Optional.empty(),
                what)));
        tales.add(() -> instance.tell(Event.Kind.PROBLEM, target, what));
    }
}
