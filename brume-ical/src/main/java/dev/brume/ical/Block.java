package dev.brume.ical;

import dev.brume.ical.TextLines.TextLine;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.List;
import java.util.Locale;
import java.util.function.Consumer;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * A component of an iCalendar file, such as VEVENT: its lines as they stand there, and the components inside it.
 *
 * @param name in upper case
 * @param line where it begins
 */
record Block(String name, int line, List<TextLine> lines, List<Block> inside) {
    private static final Pattern EDGE = Pattern.compile("(BEGIN|END):\\s*([A-Z0-9-]+)\\s*", Pattern.CASE_INSENSITIVE);
    private static final Pattern PROPERTY = Pattern.compile("[A-Za-z0-9-]+[;:].*", Pattern.DOTALL);

    /**
     * Reads the calendars of a file.
     *
     * @param strange is told of each line that is none of iCalendar's, and left out
     * @throws dev.brume.schedule.ScheduleSyntaxException if components do not nest, or there is no calendar
     */
    static List<Block> read(List<TextLine> lines, String file, Consumer<Warning> strange) {
        List<Block> calendars = new ArrayList<>();
        Deque<Block> open = new ArrayDeque<>();
        for (TextLine line : lines) {
            Matcher edge = EDGE.matcher(line.text().strip());
            if (!edge.matches()) {
                add(line, open.peek(), file, strange);
            } else if (edge.group(1).equalsIgnoreCase("BEGIN")) {
                String name = edge.group(2).toUpperCase(Locale.ROOT);
                Block block = new Block(name, line.number(), new ArrayList<>(), new ArrayList<>());
                if (open.isEmpty() && !name.equals("VCALENDAR")) {
                    throw noCalendar(line, file);
                }
                (open.isEmpty() ? calendars : open.peek().inside()).add(block);
                open.push(block);
            } else {
                end(line, edge.group(2).toUpperCase(Locale.ROOT), open, file);
            }
        }
        if (!open.isEmpty()) {
            throw Problems.atLine(
                    file,
                    open.peek().line(),
                    "begins a " + open.peek().name() + " that has no END: the file is cut off, or a line is missing");
        }
        if (calendars.isEmpty()) {
            throw Problems.of(file, "", 0, "holds no calendar (expected BEGIN:VCALENDAR in its first line)");
        }
        return calendars;
    }

    private static void add(TextLine line, @Nullable Block within, String file, Consumer<Warning> strange) {
        if (within == null) {
            throw noCalendar(line, file);
        }
        if (PROPERTY.matcher(line.text()).matches()) {
            within.lines().add(line);
        } else {
            strange.accept(new Warning(
                    line.number(),
                    "is no line of iCalendar and was left out: '" + Problems.shortened(line.text()) + "'"));
        }
    }

    private static RuntimeException noCalendar(TextLine line, String file) {
        return Problems.atLine(
                file,
                line.number(),
                "is outside any calendar (expected BEGIN:VCALENDAR): '" + Problems.shortened(line.text()) + "'");
    }

    private static void end(TextLine line, String name, Deque<Block> open, String file) {
        if (open.isEmpty() || !open.peek().name().equals(name)) {
            throw Problems.atLine(
                    file,
                    line.number(),
                    "ends a " + name + ", and "
                            + (open.isEmpty()
                                    ? "none has begun"
                                    : "the " + open.peek().name() + " that began in line "
                                            + open.peek().line() + " is still open"));
        }
        open.pop();
    }

    /** {@return the components of a name inside it} */
    List<Block> inside(String component) {
        return inside.stream().filter(block -> block.name().equals(component)).toList();
    }
}
