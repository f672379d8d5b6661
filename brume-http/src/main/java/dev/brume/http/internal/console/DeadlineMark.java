package dev.brume.http.internal.console;

import dev.brume.insight.board.Scale;
import dev.brume.insight.tally.DeadlineTally;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.TreeMap;

/**
 * A deadline that was missed, drawn where it passed; several close by are one.
 *
 * @param from where it stands, in hundredths
 * @param says what it is, in words
 * @param at the first occurrence that it is of
 * @param run of a single one, if there was one
 */
public record DeadlineMark(double from, String says, Instant at, Optional<Long> run) implements Drawn {
    /** {@return the marks of a row, earliest first} */
    static List<DeadlineMark> of(Optional<DeadlineTally> deadlines, Scale scale, Frame frame) {
        TreeMap<Long, DeadlineTally.Missed> first = new TreeMap<>();
        TreeMap<Long, Long> counts = new TreeMap<>();
        for (DeadlineTally.Missed missed : deadlines.map(DeadlineTally::listed).orElse(List.of())) {
            double share = scale.share(missed.deadline());
            if (share >= 0 && share <= 100) {
                long place = Math.round(share);
                first.putIfAbsent(place, missed);
                counts.merge(place, 1L, Long::sum);
            }
        }
        return first.entrySet().stream()
                .map(entry -> of(entry.getValue(), counts.get(entry.getKey()), scale, frame))
                .toList();
    }

    private static DeadlineMark of(DeadlineTally.Missed missed, long count, Scale scale, Frame frame) {
        String says = count > 1
                ? count + " deadlines missed, the first of them at " + frame.time(missed.deadline())
                : frame.time(missed.deadline()) + ": deadline missed; "
                        + missed.ended()
                                .map(end ->
                                        "it ended " + Frame.size(Duration.between(missed.deadline(), end)) + " after")
                                .orElse(missed.run().isPresent() ? "its run had not ended well" : "it had not run");
        return new DeadlineMark(
                scale.share(missed.deadline()),
                says,
                missed.planned(),
                missed.run().filter(run -> count == 1));
    }

    /** {@return where it stands, as an address in a picture} */
    public String x() {
        return Axis.percent(from);
    }
}
