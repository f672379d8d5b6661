package dev.brume.seal;

import dev.brume.JobKey;
import dev.brume.port.ChangeView;
import dev.brume.port.RunView;
import dev.brume.port.SpanView;
import java.time.Instant;
import java.util.List;
import java.util.Optional;

/**
 * A row as seals see it.
 *
 * @param number tells rows of a kind apart
 * @param what it is called
 * @param job it is of; empty if it is of none
 * @param at what retention goes by: the planned instant of a run, the last occurrence of a span; otherwise when it was written
 * @param form its canonical form
 */
public record SealedRow(long number, String what, Optional<JobKey> job, Instant at, String form) {

    /** {@return a line of the ledger, with what its attempts printed} */
    public static SealedRow of(RunView run, List<Printed> printed) {
        return new SealedRow(
                run.id(),
                SealedKind.LINE.row(run.id()),
                Optional.of(run.job()),
                run.owed().planned(),
                Canonical.of(run, printed));
    }

    /** {@return a line of the change log} */
    public static SealedRow of(ChangeView view) {
        return new SealedRow(
                view.id(), SealedKind.CHANGE.row(view.id()), view.change().job(), view.at(), Canonical.of(view));
    }

    /** {@return a span} */
    public static SealedRow of(long number, SpanView view) {
        return new SealedRow(
                number,
                SealedKind.SPAN.row(number) + " of " + view.job(),
                Optional.of(view.job()),
                view.span().last(),
                Canonical.of(number, view.span()));
    }

    /**
     * {@return a version of a job's definition}
     *
     * @param job whose
     * @param fields all that is kept of it, name and value by turns
     */
    public static SealedRow ofVersion(long number, JobKey job, int version, Instant definedAt, List<String> fields) {
        return new SealedRow(
                number,
                "version " + version + " of " + job,
                Optional.of(job),
                definedAt,
                Canonical.ofVersion(number, version, definedAt, fields));
    }

    /** {@return its mark} */
    String mark() {
        return Mark.of(form, at);
    }
}
