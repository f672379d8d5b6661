package dev.brume.schedule;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.regex.Pattern;

/** Reads a cron expression into its fields, noting everything that is wrong with it. */
final class CronParser {
    /** The longest text that is read at all. */
    static final int LONGEST = 400;

    private static final Map<String, String> NICKNAMES = Map.of(
            "@yearly", "0 0 1 1 *",
            "@annually", "0 0 1 1 *",
            "@monthly", "0 0 1 * *",
            "@weekly", "0 0 * * 0",
            "@daily", "0 0 * * *",
            "@midnight", "0 0 * * *",
            "@hourly", "0 * * * *");
    private static final Pattern YEAR = Pattern.compile("(19|20)\\d\\d([-,/].*)?");
    private static final CronField[] FIELDS = CronField.values();

    private final String text;
    private final List<ScheduleProblem> problems = new ArrayList<>();

    private CronParser(String text) {
        this.text = text;
    }

    /** {@return the sets of all six fields in the order of {@link CronField}} */
    static CronFieldSet[] parse(String text) {
        return new CronParser(text).fields();
    }

    private CronFieldSet[] fields() {
        if (text.length() > LONGEST) {
            throw fail(ScheduleProblem.of(
                    "cron", text.substring(0, 20) + "…", 0, "is longer than " + LONGEST + " characters"));
        }
        List<Word> words = words();
        CronFieldSet[] sets = new CronFieldSet[FIELDS.length];
        int first = words.size() == FIELDS.length ? 0 : 1;
        if (first == 1) {
            sets[0] = new CronFieldSet("0", 1, 0, 0, true);
        }
        for (int i = first; i < FIELDS.length; i++) {
            sets[i] = new CronFieldReader(FIELDS[i], words.get(i - first), problems).read();
        }
        if (!problems.isEmpty()) {
            problems.sort(Comparator.comparingInt(ScheduleProblem::index));
            throw new ScheduleSyntaxException(text, problems);
        }
        return sets;
    }

    /** A field as written and where it begins. */
    record Word(String text, int index) {}

    private List<Word> words() {
        String stripped = text.strip();
        if (stripped.startsWith("@")) {
            return nickname(stripped);
        }
        List<Word> words = split();
        boolean endsInYear = words.size() > 5
                && YEAR.matcher(words.get(words.size() - 1).text()).matches();
        if (words.size() == 7 || endsInYear) {
            Word year = words.get(words.size() - 1);
            throw fail(ScheduleProblem.of(
                    "cron",
                    year.text(),
                    year.index(),
                    "is one field too many: there is no year field; for a single date use a 'once' schedule"));
        }
        if (words.isEmpty()) {
            throw fail(ScheduleProblem.of(
                    "cron",
                    "",
                    0,
                    "is empty (expected 5 fields: minute hour day-of-month month day-of-week, such as 15 4 * * *)"));
        }
        if (words.size() != 5 && words.size() != 6) {
            throw fail(ScheduleProblem.of(
                    "cron",
                    stripped,
                    0,
                    "has " + words.size() + (words.size() == 1 ? " field" : " fields")
                            + " (expected 5: minute hour day-of-month month day-of-week, or 6 with second first)"));
        }
        return words;
    }

    private List<Word> split() {
        List<Word> words = new ArrayList<>(FIELDS.length + 1);
        int begin = -1;
        for (int i = 0; i <= text.length(); i++) {
            boolean space = i == text.length() || Character.isWhitespace(text.charAt(i));
            if (space && begin >= 0) {
                words.add(new Word(text.substring(begin, i), begin));
                begin = -1;
            } else if (!space && begin < 0) {
                begin = i;
            }
        }
        return words;
    }

    private List<Word> nickname(String stripped) {
        String expansion = NICKNAMES.get(stripped.toLowerCase(Locale.ROOT));
        if (expansion == null) {
            List<String> known = NICKNAMES.keySet().stream().sorted().toList();
            ScheduleProblem problem = ScheduleProblem.of(
                    "cron",
                    stripped,
                    text.indexOf('@'),
                    "is not a nickname (allowed: " + String.join(" ", known) + ")");
            throw fail(Nearest.to(stripped, known).map(problem::suggesting).orElse(problem));
        }
        List<Word> words = new ArrayList<>();
        for (String word : expansion.split(" ")) {
            words.add(new Word(word, 0));
        }
        return words;
    }

    private ScheduleSyntaxException fail(ScheduleProblem problem) {
        return ScheduleSyntaxException.of(text, problem);
    }
}
