package dev.brume.seal;

import dev.brume.Attempt;
import dev.brume.port.ChangeView;
import dev.brume.port.RunView;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.Arrays;
import java.util.Base64;
import java.util.HexFormat;
import java.util.Optional;

/**
 * The bytes that marks and digests are computed over, the same on every database and for ever.
 *
 * <p>A line is written field by field: its name, a colon, the number of bytes of its value in UTF-8, a colon, the value, a line
 * feed. Instants are ISO 8601 in UTC; what is empty has the length 0. A mark is the first 12 bytes of SHA-256 over that, in
 * Base64 for URLs. Stateless.
 */
public final class Canonical {
    /** How many characters a mark has. */
    public static final int MARK_LENGTH = 16;

    private static final int MARK_BYTES = 12;

    private final StringBuilder text = new StringBuilder();

    private Canonical(String form) {
        text.append(form).append('\n');
    }

    /** {@return the canonical form of a ledger line; what its attempts printed is not part of it} */
    public static String of(RunView run) {
        Canonical line = new Canonical("brume-line 1");
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
        return line.text.toString();
    }

    /** {@return the canonical form of a line of the change log} */
    public static String of(ChangeView view) {
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

    /** {@return the mark of a canonical form} */
    public static String mark(String form) {
        return Base64.getUrlEncoder().withoutPadding().encodeToString(Arrays.copyOf(digest(form), MARK_BYTES));
    }

    static String sha256(String form) {
        return HexFormat.of().formatHex(digest(form));
    }

    private static byte[] digest(String form) {
        try {
            return MessageDigest.getInstance("SHA-256").digest(form.getBytes(StandardCharsets.UTF_8));
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("every Java has SHA-256", e);
        }
    }
}
