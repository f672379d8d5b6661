package dev.brume.notices;

import com.samskivert.mustache.Mustache;
import dev.brume.notice.Channel;
import dev.brume.notice.Notice;
import dev.brume.notice.NoticeKind;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.atomic.AtomicInteger;

/**
 * Writes notices: the first line is the subject, what comes after it the text. Templates are those of Mustache; what a channel gives takes the place of
 * Brume's own. Stateless.
 *
 * @param subject one line
 * @param text the rest
 * @param remark why it is not as the channel's own template has it; empty if it is
 */
record NoticeText(String subject, String text, String remark) {
    private static final int LONGEST_SUBJECT = 200;
    private static final int LONGEST = 100_000;
    private static final int MOST_ROUNDS = 100;

    /** What is told of a fact, by its name; others are told by their names. */
    private static final Map<String, String> LABELS = Map.ofEntries(
            Map.entry("run", "Run"),
            Map.entry("planned", "Planned for"),
            Map.entry("attempt", "Attempt"),
            Map.entry("instance", "On instance"),
            Map.entry("endedAt", "Ended at"),
            Map.entry("reason", "Reason"),
            Map.entry("error", "Error"),
            Map.entry("since", "Since"),
            Map.entry("count", "Seen so often"),
            Map.entry("inARow", "In a row"),
            Map.entry("more", "More of it"),
            Map.entry("moreSince", "Counted since"),
            Map.entry("last", "At last"),
            Map.entry("deadline", "Deadline"),
            Map.entry("expected", "Expected end"),
            Map.entry("waitsFor", "Waits for"),
            Map.entry("lastSuccess", "Last success"),
            Map.entry("why", "Why"),
            Map.entry("members", "What"));

    private static final Set<String> HIDDEN = Set.of("tookMillis", "lateMillis", "percentile");

    /** {@return what is written of a notice} */
    static NoticeText of(Channel channel, Notice notice) {
        String own = own(notice.kind());
        Optional<String> given =
                Optional.ofNullable(channel.templates().get(notice.kind().word()));
        if (given.isPresent()) {
            try {
                return split(render(given.get(), notice), "");
            } catch (RuntimeException e) {
                return split(
                        render(own, notice),
                        "the channel's template of " + notice.kind().word() + " fails: " + e.getMessage());
            }
        }
        return split(render(own, notice), "");
    }

    private static String render(String template, Notice notice) {
        BoundedText all = new BoundedText(LONGEST);
        Mustache.compiler().escapeHTML(false).defaultValue("").compile(template).execute(values(notice), all);
        return all.toString();
    }

    /** Facts within facts within facts are more than anybody waits for. */
    private static Iterable<Map<String, String>> repeatable(List<Map<String, String>> facts) {
        AtomicInteger rounds = new AtomicInteger();
        return () -> {
            if (rounds.incrementAndGet() > MOST_ROUNDS) {
                throw new IllegalStateException("it lists the facts more than " + MOST_ROUNDS + " times");
            }
            return facts.iterator();
        };
    }

    private static NoticeText split(String all, String remark) {
        String plain = all.strip();
        int end = plain.indexOf('\n');
        String first = (end < 0 ? plain : plain.substring(0, end)).strip();
        String subject = first.length() <= LONGEST_SUBJECT ? first : first.substring(0, LONGEST_SUBJECT - 1) + "…";
        return new NoticeText(subject, end < 0 ? "" : plain.substring(end + 1).strip(), remark);
    }

    private static Map<String, Object> values(Notice notice) {
        Map<String, Object> values = new LinkedHashMap<>(notice.facts());
        values.put("id", notice.id());
        values.put("cause", notice.cause());
        values.put("channel", notice.channel());
        values.put("kind", notice.kind().word());
        values.put("job", notice.job().map(Object::toString).orElse(""));
        values.put("at", notice.at().toString());
        values.put("title", notice.title());
        values.put("facts", repeatable(told(notice)));
        return values;
    }

    /** {@return the facts that are told, as label and value} */
    static List<Map<String, String>> told(Notice notice) {
        return notice.facts().entrySet().stream()
                .filter(fact -> !HIDDEN.contains(fact.getKey()))
                .map(fact ->
                        Map.of("label", LABELS.getOrDefault(fact.getKey(), fact.getKey()), "value", fact.getValue()))
                .toList();
    }

    /** Brume's own template of a kind; most kinds share one. */
    private static String own(NoticeKind kind) {
        String name = switch (kind) {
            case RECOVERED, ENDED_WELL -> "well";
            case AGAIN, WIDESPREAD -> "again";
            case SAMPLE -> "sample";
            case DEADLINE_AT_RISK, DEADLINE_MISSED, SILENT -> "deadline";
            default -> "trouble";
        };
        try (InputStream stream = NoticeText.class.getResourceAsStream(name + ".mustache")) {
            return new String(Objects.requireNonNull(stream, name).readAllBytes(), StandardCharsets.UTF_8);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
