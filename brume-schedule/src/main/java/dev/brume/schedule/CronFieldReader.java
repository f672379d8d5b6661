package dev.brume.schedule;

import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Reads one field of a cron expression; problems are noted, never thrown. */
final class CronFieldReader {
    private static final Pattern RANGE = Pattern.compile("([^-/]+)(?:-([^-/]+))?(?:/(.*))?");
    private static final Pattern LAST_MINUS = Pattern.compile("L-(\\d{1,2})");
    private static final Pattern NEAREST = Pattern.compile("(\\d{1,2})W");
    private static final Pattern LAST_WEEKDAY = Pattern.compile("(\\w+)L");
    private static final Pattern NTH_WEEKDAY = Pattern.compile("(\\w+)#(\\d{1,3})");

    private final CronField field;
    private final CronParser.Word word;
    private final List<ScheduleProblem> problems;
    private long bits;
    private long fromLast;
    private long nearest;

    CronFieldReader(CronField field, CronParser.Word word, List<ScheduleProblem> problems) {
        this.field = field;
        this.word = word;
        this.problems = problems;
    }

    CronFieldSet read() {
        String text = word.text().toUpperCase(Locale.ROOT);
        long plain = PlainField.read(field, text);
        if (plain != 0) {
            return new CronFieldSet(text, plain, 0, 0, !field.isDay() || !text.equals("*"));
        }
        int index = word.index();
        for (String item : text.split(",", -1)) {
            readItem(item, index);
            index += item.length() + 1;
        }
        boolean open = field.isDay() && (text.equals("*") || text.equals("?"));
        return new CronFieldSet(text.equals("?") ? "*" : text, bits, fromLast, nearest, !open);
    }

    private void readItem(String item, int index) {
        if (item.isEmpty()) {
            note("", index, "has an empty item in its list (allowed: " + field.allowed() + ")");
        } else if (item.equals("*") || item.equals("?") && field.isDay()) {
            addRange(field.min(), field.min() + field.size() - 1, 1);
        } else if (!readSpecial(item, index)) {
            readRange(item, index);
        }
    }

    /** Reads what only the day fields have; returns whether the item was such a thing, right or wrong. */
    private boolean readSpecial(String item, int index) {
        return switch (field) {
            case DAY_OF_MONTH -> readSpecialDay(item, index);
            case DAY_OF_WEEK -> readSpecialWeekday(item, index);
            default -> false;
        };
    }

    private boolean readSpecialDay(String item, int index) {
        Matcher lastMinus = LAST_MINUS.matcher(item);
        Matcher nearDay = NEAREST.matcher(item);
        if (item.equals("L")) {
            fromLast |= 1;
        } else if (item.equals("LW") || item.equals("WL")) {
            nearest |= 1;
        } else if (lastMinus.matches()) {
            int days = Integer.parseInt(lastMinus.group(1));
            if (days > 30) {
                note(item, index, "counts back more than 30 days from the last");
            } else {
                fromLast |= 1L << days;
            }
        } else if (nearDay.matches()) {
            int day = Integer.parseInt(nearDay.group(1));
            if (day < 1 || day > 31) {
                note(item, index, "is outside 1W-31W");
            } else {
                nearest |= 1L << day;
            }
        } else {
            return false;
        }
        return true;
    }

    private boolean readSpecialWeekday(String item, int index) {
        Matcher nth = NTH_WEEKDAY.matcher(item);
        if (nth.matches()) {
            int weekday = number(nth.group(1), index);
            int count = Integer.parseInt(nth.group(2));
            if (count < 1 || count > 5) {
                note(item, index, "asks for week " + count + " of the month (allowed: #1 to #5)");
            } else if (weekday >= 0) {
                nearest |= 1L << (7 * (count - 1) + weekday % 7);
            }
            return true;
        }
        if (item.equals("L")) {
            problems.add(problem(item, index, "needs a weekday before it, as in 5L for the last Friday")
                    .suggesting("SAT, or 6L for the last Saturday of the month"));
            return true;
        }
        Matcher last = LAST_WEEKDAY.matcher(item);
        if (last.matches() && isWeekday(last.group(1))) {
            fromLast |= 1L << number(last.group(1), index) % 7;
            return true;
        }
        return false;
    }

    private boolean isWeekday(String text) {
        return field.numberOf(text) >= 0 || text.matches("[0-7]");
    }

    private void readRange(String item, int index) {
        if (item.startsWith("*/")) {
            int step = step(item.substring(2), index + 2);
            if (step > 0) {
                addRange(field.min(), field.min() + field.size() - 1, step);
            }
            return;
        }
        Matcher range = RANGE.matcher(item);
        if (!range.matches()) {
            note(item, index, "cannot be read (allowed: " + field.allowed() + ")");
            return;
        }
        int from = number(range.group(1), index);
        boolean single = range.group(2) == null;
        int to = single ? from : number(range.group(2), index + range.start(2));
        int step = range.group(3) == null ? 1 : step(range.group(3), index + range.start(3));
        if (from < 0 || to < 0 || step <= 0) {
            return;
        }
        boolean toTheEnd = single && range.group(3) != null;
        addRange(from, toTheEnd ? Math.max(from, field.min() + field.size() - 1) : to, step);
    }

    private void addRange(int from, int to, int step) {
        bits |= PlainField.range(field, from, to, step);
    }

    private int number(String text, int index) {
        int named = field.numberOf(text);
        if (named >= 0) {
            return named;
        }
        if (text.matches("\\d{1,4}")) {
            int number = Integer.parseInt(text);
            if (number >= field.min() && number <= field.max()) {
                return number;
            }
            note(text, index, "is outside " + field.min() + "-" + field.max());
            return -1;
        }
        String rule = "is not a value (allowed: " + field.allowed() + ")";
        ScheduleProblem problem = problem(text, index, rule);
        problems.add(suggestion(text).map(problem::suggesting).orElse(problem));
        return -1;
    }

    private Optional<String> suggestion(String text) {
        Optional<String> shortened =
                field.names().stream().filter(name -> text.startsWith(name)).findFirst();
        return shortened.isPresent() ? shortened : Nearest.to(text, field.names());
    }

    private int step(String text, int index) {
        if (!text.matches("\\d{1,4}")) {
            note(text, index, "is not a step (expected a number after '/')");
            return -1;
        }
        int step = Integer.parseInt(text);
        if (step < 1 || step > field.size()) {
            note(text, index, "is a step outside 1-" + field.size());
            return -1;
        }
        return step;
    }

    private void note(String text, int index, String rule) {
        problems.add(problem(text, index, rule));
    }

    /** A problem with a part of the field, shown as it was written. */
    private ScheduleProblem problem(String part, int index, String rule) {
        int start = index - word.index();
        boolean asWritten = word.text().regionMatches(/* ignoreCase= */ true, start, part, 0, part.length());
        String shown = asWritten ? word.text().substring(start, start + part.length()) : part;
        return ScheduleProblem.of(field.label(), shown, index, rule);
    }
}
