package dev.brume.spi;

import dev.brume.Attempt;
import dev.brume.JobName;
import dev.brume.history.ChangeView;
import dev.brume.history.Content;
import dev.brume.history.Printed;
import dev.brume.history.RunView;
import dev.brume.history.SealedKind;
import dev.brume.history.SealedRow;
import dev.brume.history.Span;
import dev.brume.history.SpanView;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * Rows as they are sealed: the bytes that marks and digests are computed over, the same on every database and for ever.
 *
 * <p>A row is written field by field: its name, a colon, the number of bytes of its value in UTF-8, a colon, the value, a line
 * feed. Instants are ISO 8601 in UTC; what is empty has the length 0. Stateless.
 *
 * @since 0.1.0
 */
public final class SealedForm {
    private final StringBuilder text = new StringBuilder();

    private SealedForm(String form) {
        text.append(form).append('\n');
    }

    /**
     * {@return a line of the ledger, with the digests of its content}
     *
     * @param first the name that its job had first, whatever it is called now
     * @param content what is on record of it, and what was before it was erased
     */
    public static SealedRow ofLine(RunView run, JobName first, Content content) {
        SealedForm line = new SealedForm("brume-line 3");
        line.add("run", run.id());
        line.add("job", first);
        line.add("jobId", run.owed().job());
        line.add("planned", run.owed().planned());
        line.add("slot", run.owed().slot());
        line.add("origin", run.owed().origin());
        line.add("nominal", run.owed().nominal());
        line.add("zone", run.owed().zone());
        line.add("note", run.owed().note());
        line.add("parent", run.owed().parent());
        line.add("orderedBy", run.owed().orderedBy());
        line.add("version", run.version());
        line.add("lane", run.lane());
        line.add("readyAt", run.readyAt());
        line.add("outcome", run.outcome());
        line.add("reason", run.reason());
        line.add("payload", content.payload());
        line.add("result", content.result());
        for (Attempt attempt : run.attempts()) {
            line.add("attempt", attempt.number());
            line.add("instance", attempt.instance());
            line.add("session", attempt.session());
            line.add("fence", attempt.fence());
            line.add("startedAt", attempt.startedAt());
            line.add("endedAt", attempt.endedAt());
            line.add("end", attempt.end());
            line.add("error", content.errors().get(attempt.number()));
        }
        for (Printed output : content.outputs().values()) {
            line.add("printedBy", output.attempt());
            line.add("bytes", output.bytes());
            line.add("omitted", output.omitted());
            line.add("output", output.digest());
        }
        return new SealedRow(
                run.id(),
                SealedKind.LINE.row(run.id()),
                Optional.of(run.job()),
                run.owed().planned(),
                line.text.toString());
    }

    /** {@return a line of the change log} */
    public static SealedRow ofChange(ChangeView view) {
        SealedForm line = new SealedForm("brume-change 2");
        line.add("id", view.id());
        line.add("at", view.at());
        line.add("kind", view.change().kind());
        line.add("who", view.change().who());
        line.add("host", view.change().host());
        line.add("job", view.change().job());
        line.add("versionBefore", view.change().versionBefore());
        line.add("versionAfter", view.change().versionAfter());
        line.add("text", view.change().text());
        line.add("because", view.change().because());
        return new SealedRow(
                view.id(), SealedKind.CHANGE.row(view.id()), view.change().job(), view.at(), line.text.toString());
    }

    /** {@return a span} */
    public static SealedRow ofSpan(long number, SpanView view) {
        Span span = view.span();
        SealedForm line = new SealedForm("brume-span 1");
        line.add("number", number);
        line.add("jobId", span.job());
        line.add("version", span.version());
        line.add("from", span.from());
        line.add("until", span.until());
        line.add("first", span.first());
        line.add("last", span.last());
        line.add("occurrences", span.count());
        line.add("reason", span.reason());
        return new SealedRow(
                number,
                SealedKind.SPAN.row(number) + " of " + view.job(),
                Optional.of(view.job()),
                span.last(),
                line.text.toString());
    }

    /**
     * {@return a version of a job's definition}
     *
     * @param job whose
     * @param fields all that is kept of it, name and value by turns
     */
    public static SealedRow ofVersion(long number, JobName job, int version, Instant definedAt, List<String> fields) {
        SealedForm line = new SealedForm("brume-definition 1");
        line.add("number", number);
        line.add("version", version);
        line.add("definedAt", definedAt);
        for (int i = 0; i < fields.size(); i += 2) {
            line.add(fields.get(i), fields.get(i + 1));
        }
        return new SealedRow(
                number, "version " + version + " of " + job, Optional.of(job), definedAt, line.text.toString());
    }

    private void add(String name, @Nullable Object value) {
        Object plain = value instanceof Optional<?> optional ? optional.orElse(null) : value;
        String words = plain == null ? "" : plain.toString();
        text.append(name)
                .append(':')
                .append(words.getBytes(StandardCharsets.UTF_8).length)
                .append(':')
                .append(words)
                .append('\n');
    }
}
