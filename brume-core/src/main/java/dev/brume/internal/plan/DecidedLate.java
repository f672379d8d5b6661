package dev.brume.internal.plan;

import dev.brume.Attempt;
import dev.brume.Reason;
import dev.brume.RunState;
import dev.brume.history.RunRow;
import dev.brume.internal.decide.Plan.Decision;
import dev.brume.internal.decide.Plan.Verdict;
import dev.brume.spi.Transaction;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.stream.Stream;

/** Tells apart what was skipped because the job was busy from what was only decided about late. */
final class DecidedLate {
    /** Decided about sooner, an occurrence was decided about when it fell due; nobody asks then what stood in its way. */
    private static final Duration DECIDED_LATE = Duration.ofMillis(100);

    /** So late nobody decides because of load alone. */
    private static final Duration OUTAGE = Duration.ofSeconds(2);

    private final Transaction tx;
    private final Instant now;
    private final List<PlanItem> items;

    DecidedLate(Transaction tx, Instant now, List<PlanItem> items) {
        this.tx = tx;
        this.now = now;
        this.items = List.copyOf(items);
    }

    /** Busy is no reason where nobody was when it fell due: what stands in its way began only as late as this is decided. */
    PlanItem judge(PlanItem item) {
        Decision decision = item.decision();
        Instant due = decision.occurrence().instant();
        boolean mayBe = decision.reason().filter(Reason.BUSY::equals).isPresent()
                && item.only().isEmpty()
                && due.plus(DECIDED_LATE).isBefore(now);
        if (!mayBe) {
            return item;
        }
        List<RunRow> live = tx.orders().ofJob(item.row().id());
        List<Instant> begun = Stream.concat(
                        live.stream()
                                .filter(run -> run.state() != RunState.WAITING)
                                .map(DecidedLate::since),
                        items.stream()
                                .filter(other -> other.row().id() == item.row().id()
                                        && other.decision().verdict() == Verdict.START)
                                .map(other -> now))
                .toList();
        if (begun.isEmpty()) {
            // The one that has the place waits for a gate, or has ended just now and its end is not settled yet.
            return live.isEmpty() && due.plus(OUTAGE).isBefore(now) ? item.because(Reason.DECIDED_LATE) : item;
        }
        return begun.stream().anyMatch(since -> !since.isAfter(due)) ? item : item.because(Reason.DECIDED_LATE);
    }

    /** {@return since when a run has its place, as far as it shows; from when it was due, if it has not begun} */
    private static Instant since(RunRow run) {
        return run.attempts().stream()
                .findFirst()
                .map(Attempt::startedAt)
                .or(() -> run.lease().map(RunRow.Lease::since))
                .orElseGet(() -> run.owed().planned());
    }
}
