package dev.brume.seal;

import dev.brume.Attempt;
import dev.brume.port.ChangeView;
import dev.brume.port.RunView;
import dev.brume.port.Span;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.time.Instant;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;

/**
 * The bytes that marks and digests are computed over, the same on every database and for ever.
 *
 * <p>A row is written field by field: its name, a colon, the number of bytes of its value in UTF-8, a colon, the value, a line
 * feed. Instants are ISO 8601 in UTC; what is empty has the length 0. Stateless.
 */
public final class Canonical {
    private final StringBuilder text = new StringBuilder();

    private Canonical(String form) {
        text.append(form).append('\n');
    }

    /** {@return the canonical form of a ledger line, with the digests of what its attempts printed} */
    static String of(RunView run, List<Printed> printed) {
        Canonical line = new Canonical("brume-line 2");
        line.add("run", run.id());
        line.add("job", run.job());
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
        line.add("payload", run.payload());
        line.add("result", run.result());
        for (Attempt attempt : run.attempts()) {
            line.add("attempt", attempt.number());
            line.add("instance", attempt.instance());
            line.add("session", attempt.session());
            line.add("fence", attempt.fence());
            line.add("startedAt", attempt.startedAt());
            line.add("endedAt", attempt.endedAt());
            line.add("end", attempt.end());
            line.add("error", attempt.error());
        }
        for (Printed output : printed) {
            line.add("printedBy", output.attempt());
            line.add("bytes", output.bytes());
            line.add("omitted", output.omitted());
            line.add("output", output.digest());
        }
        return line.text.toString();
    }

    /** {@return the canonical form of a line of the change log} */
    static String of(ChangeView view) {
        Canonical line = new Canonical("brume-change 1");
        line.add("id", view.id());
        line.add("at", view.at());
        line.add("kind", view.change().kind());
        line.add("who", view.change().who());
        line.add("origin", view.change().origin());
        line.add("job", view.change().job());
        line.add("versionBefore", view.change().versionBefore());
        line.add("versionAfter", view.change().versionAfter());
        line.add("text", view.change().text());
        line.add("because", view.change().because());
        return line.text.toString();
    }

    /** {@return the canonical form of a span} */
    static String of(long number, Span span) {
        Canonical line = new Canonical("brume-span 1");
        line.add("number", number);
        line.add("jobId", span.job());
        line.add("version", span.version());
        line.add("from", span.from());
        line.add("until", span.until());
        line.add("first", span.first());
        line.add("last", span.last());
        line.add("occurrences", span.count());
        line.add("reason", span.reason());
        return line.text.toString();
    }

    /** {@return the canonical form of a version of a definition} */
    static String ofVersion(long number, int version, Instant definedAt, List<String> fields) {
        Canonical line = new Canonical("brume-definition 1");
        line.add("number", number);
        line.add("version", version);
        line.add("definedAt", definedAt);
        for (int i = 0; i < fields.size(); i += 2) {
            line.add(fields.get(i), fields.get(i + 1));
        }
        return line.text.toString();
    }

    private void add(String name, Object value) {
        Object plain = value instanceof Optional<?> optional ? optional.orElse(null) : value;
        String words = plain == null ? "" : plain.toString();
        text.append(name)
                .append(':')
                .append(words.getBytes(StandardCharsets.UTF_8).length)
                .append(':')
                .append(words)
                .append('\n');
    }

    static String sha256(String form) {
        return HexFormat.of().formatHex(digest(form));
    }

    static byte[] digest(String form) {
        try {
            return MessageDigest.getInstance("SHA-256").digest(form.getBytes(StandardCharsets.UTF_8));
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("every Java has SHA-256", e);
        }
    }
}
