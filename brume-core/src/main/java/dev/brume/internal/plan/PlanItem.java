package dev.brume.internal.plan;

import dev.brume.GateKey;
import dev.brume.IfMissed;
import dev.brume.Job;
import dev.brume.Mask;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.history.JobRow;
import dev.brume.history.Needs;
import dev.brume.history.RunRow;
import dev.brume.history.SessionRow;
import dev.brume.internal.decide.Plan.Decision;
import dev.brume.internal.decide.Plan.Verdict;
import dev.brume.schedule.Note;
import dev.brume.schedule.Occurrence;
import dev.brume.spi.LedgerLine;
import dev.brume.spi.OneOffOrder;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** A run to be written; an order by hand has a slot of its own, so that it may be owed to the same occurrence as others. */
record PlanItem(
        JobRow row,
        Job job,
        Decision decision,
        Optional<OneOffOrder> oneOff,
        Optional<PlanWriter.ByHand> byHand,
        Optional<SessionRow> only) {
    static PlanItem scheduled(JobRow row, Job job, Decision decision) {
        return new PlanItem(row, job, decision, Optional.empty(), Optional.empty(), Optional.empty());
    }

    PlanItem decided(Optional<SessionRow> session, Verdict verdict, Optional<Reason> reason) {
        Decision own = new Decision(decision.occurrence(), verdict, reason, decision.origin());
        return new PlanItem(row, job, own, Optional.empty(), Optional.empty(), session);
    }

    PlanItem because(Reason reason) {
        Decision own = new Decision(decision.occurrence(), decision.verdict(), Optional.of(reason), decision.origin());
        return new PlanItem(row, job, own, oneOff, byHand, only);
    }

    boolean isForEach() {
        return job.onEachInstance() && decision.verdict() == Verdict.START && oneOff.isEmpty() && byHand.isEmpty();
    }

    /** A job that wants none of what it missed does not want those either that no worker was free for in time. */
    Optional<Instant> startBy() {
        if (byHand.isPresent()) {
            return Optional.empty();
        }
        IfMissed policy = job.ifMissed();
        boolean noneLate =
                oneOff.isEmpty() && decision.verdict() == Verdict.START && policy.choice() == IfMissed.Choice.SKIP;
        Optional<Duration> limit = job.startWithin();
        Optional<Duration> tolerated = noneLate ? Optional.of(policy.tolerance()) : Optional.empty();
        return Stream.of(limit, tolerated)
                .flatMap(Optional::stream)
                .min(Duration::compareTo)
                .map(decision.occurrence().instant()::plus);
    }

    /** The job's gates, and the one-off's own. */
    List<GateKey> gates() {
        return oneOff.map(order -> order.gates(job)).orElseGet(job::gates);
    }

    Needs needs() {
        Needs any = Needs.of(job);
        return only.map(session -> any.of(session.id())).orElse(any);
    }

    RunRow.Owed owed(long id) {
        Occurrence occurrence = decision.occurrence();
        return new RunRow.Owed(
                row.id(),
                occurrence.instant(),
                byHand.map(order -> order.slot(id))
                        .or(() -> oneOff.map(PlanItem::slot))
                        .or(() -> only.map(SessionRow::instance))
                        .orElse(""),
                decision.origin(),
                occurrence.nominal(),
                occurrence.zone().getId(),
                notes(),
                oneOff.flatMap(OneOffOrder::parent),
                byHand.map(PlanWriter.ByHand::who).or(() -> oneOff.flatMap(PlanItem::orderedBy)));
    }

    /** A follow-up was ordered by no person. */
    private static Optional<String> orderedBy(OneOffOrder oneOff) {
        return Optional.of(oneOff.orderedBy()).filter(who -> oneOff.parent().isEmpty());
    }

    /** {@return what the record says in place of the payload, if that may hold secrets} */
    Optional<String> shownPayload() {
        return job.mask().isEmpty() ? Optional.empty() : payload().map(this::shown);
    }

    /** {@return what the record says in place of a payload} */
    private String shown(String payload) {
        return Mask.of(job).apply(payload);
    }

    private static String slot(OneOffOrder oneOff) {
        return oneOff.parent().isPresent() ? oneOff.key() : RunRow.Owed.slotOf(oneOff.run(), oneOff.key());
    }

    Optional<String> payload() {
        return byHand.flatMap(PlanWriter.ByHand::payload)
                .or(() -> oneOff.flatMap(OneOffOrder::payload))
                .or(job::payload);
    }

    /** The notes of the policies. That a run had to wait for a place is known only now, and stays on record. */
    private Optional<String> notes() {
        Stream<String> schedules = decision.occurrence().notes().stream().map(Note::name);
        Stream<String> held = Stream.of(RunRow.Owed.WAITED).filter(note -> decision.verdict() == Verdict.HOLD);
        String all = Stream.concat(schedules, held).collect(Collectors.joining(","));
        return all.isEmpty() ? Optional.empty() : Optional.of(all);
    }

    LedgerLine line(RunRow.Owed owed, long id) {
        return new LedgerLine(
                id,
                owed,
                row.version(),
                job.lane(),
                owed.planned(),
                Outcome.SKIPPED,
                decision.reason(),
                List.of(),
                payload().map(this::shown),
                Optional.empty());
    }
}
