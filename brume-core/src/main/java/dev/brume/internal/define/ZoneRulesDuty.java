package dev.brume.internal.define;

import dev.brume.Event;
import dev.brume.Job;
import dev.brume.history.AfterEnd;
import dev.brume.history.Change;
import dev.brume.history.JobRow;
import dev.brume.history.SessionRow;
import dev.brume.history.VersionKey;
import dev.brume.internal.decide.PlanDecider;
import dev.brume.internal.duty.Instance;
import dev.brume.schedule.Occurrence;
import dev.brume.spi.JobAdvance;
import dev.brume.spi.Transaction;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * Brings the next occurrences of all jobs up to the zone rules of this instance, if they are newer than those that the
 * database's were computed with; says which ones moved, and when instances do not agree.
 *
 * <p>Done once for each session. What was planned already stays as it was; everything after a job's cursor is decided
 * under the newer rules.
 */
public final class ZoneRulesDuty {
    private static final int BATCH = 1000;
    private static final int MOST_TOLD = 20;

    private final Instance instance;

    public ZoneRulesDuty(Instance instance) {
        this.instance = instance;
    }

    /** Carries it out. */
    public void step() {
        String own = instance.settings().tzdata();
        String known = instance.transact(Transaction::tzdata);
        if (known.isEmpty()) {
            instance.transact(tx -> {
                tx.tzdata(own);
                return own;
            });
        } else if (own.compareTo(known) > 0) {
            recompute(known, own);
        } else if (own.compareTo(known) < 0) {
            instance.tell(
                    Event.Kind.PROBLEM,
                    "zone rules " + own + " of this instance are older than " + known
                            + " in this database: local times may be off; update its Java or its zone rules");
        }
        tellOfOthers(own);
    }

    private void tellOfOthers(String own) {
        List<String> others = instance.store().history().sessions(/* ended= */ false).stream()
                .map(view -> view.row())
                .filter(row ->
                        row.state() == SessionRow.State.OPEN && !row.tzdata().equals(own))
                .map(row -> row.instance() + " (" + row.tzdata() + ")")
                .sorted()
                .toList();
        if (!others.isEmpty()) {
            instance.tell(
                    Event.Kind.PROBLEM,
                    "zone rules " + own + " of this instance differ from those of " + String.join(", ", others)
                            + ": around changed rules they do not agree when jobs are due");
        }
    }

    private record Moved(JobRow row, Job job, Optional<Instant> now) {}

    private void recompute(String known, String own) {
        long after = 0;
        int moved = 0;
        int seen = BATCH;
        while (seen == BATCH) {
            long from = after;
            Batch batch = instance.transact(tx -> recompute(tx, from));
            for (Moved each : batch.moved) {
                if (moved++ < MOST_TOLD) {
                    tell(each);
                }
            }
            seen = batch.seen;
            after = batch.last;
        }
        String text = "zone rules " + known + " -> " + own + ": the next occurrence of " + moved
                + (moved == 1 ? " job" : " jobs") + " moved";
        instance.transact(tx -> {
            tx.tzdata(own);
            tx.addChanges(List.of(Change.of(
                    "ZONE_RULES",
                    instance.settings().instance(),
                    instance.settings().host(),
                    text)));
            return text;
        });
        instance.tell(Event.Kind.ZONE_RULES, text);
    }

    private void tell(Moved each) {
        String was = each.row.nextAt().map(Instant::toString).orElse("none");
        String is = each.now.map(Instant::toString).orElse("none");
        instance.tell(Event.Kind.ZONE_RULES, each.job.name(), "next occurrence " + was + " -> " + is);
    }

    private record Batch(List<Moved> moved, int seen, long last) {}

    private Batch recompute(Transaction tx, long after) {
        List<JobRow> rows = tx.lockJobsAfter(after, BATCH);
        Map<VersionKey, Job> jobs = instance.definitions()
                .get(tx, rows.stream().map(JobRow::versionKey).toList());
        List<Moved> moved = new ArrayList<>();
        List<JobAdvance> advances = new ArrayList<>();
        for (JobRow row : rows) {
            Job job = jobs.get(row.versionKey());
            if (job == null) {
                instance.tellUnreadable(row.name().toString());
                continue;
            }
            Optional<Instant> next = row.pause()
                    .due(PlanDecider.earlier(
                            job.next(row.cursor()).map(Occurrence::instant),
                            row.afterEnd().flatMap(AfterEnd::due)));
            if (!next.equals(row.nextAt())) {
                moved.add(new Moved(row, job, next));
                advances.add(JobAdvance.of(row.due(next)));
            }
        }
        if (!advances.isEmpty()) {
            tx.advance(advances);
        }
        return new Batch(
                moved,
                rows.size(),
                rows.isEmpty() ? after : rows.get(rows.size() - 1).id());
    }
}
