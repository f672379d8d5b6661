package dev.brume.internal.retention;

import dev.brume.Keep;
import dev.brume.history.IdRanges;
import dev.brume.history.SealedKind;
import dev.brume.schedule.Durations;
import java.time.DateTimeException;
import java.time.Duration;
import java.time.Instant;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * The line of the change log in which retention says which rows it removed, as text and as data.
 *
 * @param kind what they were, {@link SealedKind#LINE} or {@link SealedKind#SPAN}
 * @param count how many
 * @param first the earliest occurrence of them
 * @param last the latest
 * @param kept the bounds that they were beyond
 * @param numbers which they were; empty if nothing was ever sealed
 */
public record RemovalNote(SealedKind kind, long count, Instant first, Instant last, Keep kept, IdRanges numbers) {
    private static final Pattern TEXT = Pattern.compile("(\\d{1,18}) (ledger line|span)s?, planned from (\\S{1,60}) to"
            + " (\\S{1,60}); kept: (.{1,200}?)(?:; sealed (?:line|span)s: (.*))?");
    private static final Pattern NUMBERS = Pattern.compile("; sealed (line|span)s: .*");
    private static final Pattern NEWEST = Pattern.compile("the newest (\\d{1,18})");

    /** {@return the text of it} */
    public String text() {
        String word = kind == SealedKind.LINE ? "line" : "span";
        return count + (kind == SealedKind.LINE ? " ledger " : " ") + word + (count == 1 ? "" : "s")
                + ", planned from " + first + " to " + last + "; kept: " + kept
                + (numbers.isEmpty() ? "" : "; sealed " + word + "s: " + numbers);
    }

    /** {@return a text of it as a person reads it, without the numbers of the rows} */
    public static String brief(String text) {
        return NUMBERS.matcher(text).replaceFirst("");
    }

    /**
     * Reads a text.
     *
     * @throws IllegalArgumentException if retention writes no such text
     */
    public static RemovalNote parse(String text) {
        Matcher parts = TEXT.matcher(text);
        if (!parts.matches()) {
            throw new IllegalArgumentException("it is not what retention writes");
        }
        try {
            IdRanges numbers = parts.group(6) == null ? IdRanges.NONE : IdRanges.parse(parts.group(6));
            RemovalNote note = new RemovalNote(
                    parts.group(2).equals("span") ? SealedKind.SPAN : SealedKind.LINE,
                    Long.parseLong(parts.group(1)),
                    Instant.parse(parts.group(3)),
                    Instant.parse(parts.group(4)),
                    keep(parts.group(5)),
                    numbers);
            if (!note.text().equals(text)) {
                throw new IllegalArgumentException("it would be written otherwise");
            }
            return note;
        } catch (IllegalArgumentException | DateTimeException garbage) {
            throw new IllegalArgumentException("it is not what retention writes: " + garbage.getMessage(), garbage);
        }
    }

    private static Keep keep(String text) {
        Optional<Duration> age = Optional.empty();
        Optional<Long> runs = Optional.empty();
        for (String part : text.equals(Keep.ALL.toString()) ? new String[0] : text.split(", ", -1)) {
            Matcher newest = NEWEST.matcher(part);
            if (newest.matches()) {
                runs = Optional.of(Long.parseLong(newest.group(1)));
            } else {
                age = Optional.of(Durations.parse(part));
            }
        }
        Keep bound = age.map(Keep::upTo).orElse(Keep.ALL);
        return runs.map(bound::andNewest).orElse(bound);
    }
}
