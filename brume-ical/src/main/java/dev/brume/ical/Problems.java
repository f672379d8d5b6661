package dev.brume.ical;

import dev.brume.schedule.ScheduleProblem;
import dev.brume.schedule.ScheduleSyntaxException;
import java.util.List;
import java.util.Optional;

/** What is wrong with a rule or a calendar file. */
final class Problems {
    private static final int LONGEST = 60;

    private Problems() {}

    static ScheduleSyntaxException of(String field, String text, int index, String rule) {
        String shown = shortened(text);
        return new ScheduleSyntaxException(
                shown, List.of(new ScheduleProblem(field, shown, index, rule, Optional.empty())));
    }

    static ScheduleSyntaxException of(String field, String text, String rule, Optional<String> suggestion) {
        String shown = shortened(text);
        return new ScheduleSyntaxException(shown, List.of(new ScheduleProblem(field, shown, 0, rule, suggestion)));
    }

    static String shortened(String text) {
        return text.length() > LONGEST ? text.substring(0, LONGEST) + "…" : text;
    }

    static ScheduleSyntaxException atLine(String field, int line, String rule) {
        return new ScheduleSyntaxException(
                field, List.of(new ScheduleProblem(field, "", 0, "line " + line + " " + rule, Optional.empty())));
    }
}
