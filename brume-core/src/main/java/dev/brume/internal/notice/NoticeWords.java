package dev.brume.internal.notice;

import dev.brume.history.CauseRow;
import dev.brume.notice.NoticeKind;
import dev.brume.notice.Sighting;
import dev.brume.notice.Trouble;
import dev.brume.schedule.Durations;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** What notices say, and the facts they carry. Stateless. */
final class NoticeWords {
    private static final int MOST_LISTED = 20;

    private NoticeWords() {}

    /** {@return the title of what is told for the first time} */
    static String ofFirst(CauseRow cause, NoticeKind kind, Sighting sighting) {
        if (kind != NoticeKind.FAILED_IN_A_ROW) {
            return sighting.title();
        }
        return cause.subject() + " failed " + cause.inARow() + " times in a row"
                + Optional.ofNullable(sighting.facts().get("error"))
                        .map(error -> ": " + Happened.plain(error))
                        .orElse("");
    }

    static Map<String, String> factsOfFirst(CauseRow cause, NoticeKind kind, Sighting sighting) {
        Map<String, String> facts = new LinkedHashMap<>(sighting.facts());
        facts.put("since", cause.openedAt().toString());
        facts.put("count", Long.toString(cause.count()));
        if (kind == NoticeKind.FAILED_IN_A_ROW || kind == NoticeKind.SKIPPED_IN_A_ROW) {
            facts.put("inARow", Integer.toString(cause.inARow()));
        }
        return facts;
    }

    /** {@return the title of the end of a cause} */
    static String ofRecovery(CauseRow cause, Instant at) {
        Duration since = Duration.between(cause.openedAt(), at);
        String lasted = since.isNegative() || since.isZero() ? "" : " after " + Durations.about(since);
        String times = cause.count() > 1 ? ", " + cause.count() + " times" : "";
        return cause.subject() + " is well again" + lasted + " ("
                + cause.trouble().words() + times + ")";
    }

    /** {@return facts with those of a cause as it stands} */
    static Map<String, String> facts(CauseRow cause, Map<String, String> facts) {
        Map<String, String> all = new LinkedHashMap<>(facts);
        all.put("since", cause.openedAt().toString());
        all.put("count", Long.toString(cause.count()));
        all.put("last", cause.last());
        return all;
    }

    /** {@return the title of what came again} */
    static String ofMore(CauseRow cause, CauseRow.Told told) {
        if (cause.trouble() == Trouble.WIDE) {
            return "Much goes wrong at once: " + told.folded() + " more since "
                    + told.at().truncatedTo(ChronoUnit.SECONDS);
        }
        return cause.subject() + (cause.isOpen() ? " still " : " was well in between, and ")
                + cause.trouble().words() + ": " + told.folded() + " more since "
                + told.at().truncatedTo(ChronoUnit.SECONDS);
    }

    static Map<String, String> factsOfMore(CauseRow cause, CauseRow.Told told) {
        Map<String, String> facts = new LinkedHashMap<>();
        facts.put("more", Long.toString(told.folded()));
        facts.put("moreSince", told.at().toString());
        return facts(cause, facts);
    }

    /**
     * {@return the title of many at once}
     *
     * @param troubles one for each
     * @param more whether others were told by themselves before
     */
    static String ofMany(List<Trouble> troubles, boolean more) {
        Map<Trouble, Integer> counts = new LinkedHashMap<>();
        troubles.forEach(trouble -> counts.merge(trouble, 1, Integer::sum));
        List<String> parts = new ArrayList<>();
        counts.forEach((trouble, count) -> parts.add(count + " " + what(trouble, count)));
        return (more ? "Much goes wrong at once; beside what was told one by one: " : "Much goes wrong at once: ")
                + String.join(", ", parts);
    }

    private static String what(Trouble trouble, int count) {
        String noun = switch (trouble) {
            case INSTANCE -> count == 1 ? "instance" : "instances";
            case LANE -> count == 1 ? "lane" : "lanes";
            default -> count == 1 ? "job" : "jobs";
        };
        String verb = switch (trouble) {
            case FAILING -> count == 1 ? "fails" : "fail";
            case MISSED -> count == 1 ? "misses occurrences" : "miss occurrences";
            case SKIPPED -> count == 1 ? "skips occurrences" : "skip occurrences";
            case LOST -> "with runs of lost instances";
            case LATE -> "late";
            case LONG -> "taking long";
            case DEADLINE -> "late for a deadline";
            case SILENT -> "silent";
            case INSTANCE -> "lost";
            case LANE -> "unserved";
            default -> "to look at";
        };
        return noun + " " + verb;
    }

    /** {@return lines, of many the first} */
    static String listed(List<String> all) {
        int more = all.size() - MOST_LISTED;
        return String.join("\n", all.subList(0, Math.min(all.size(), MOST_LISTED)))
                + (more > 0 ? "\nand " + more + " more" : "");
    }
}
