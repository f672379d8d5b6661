package dev.brume.ical;

import dev.brume.schedule.ScheduleSyntaxException;
import java.io.IOException;
import java.io.Reader;
import java.io.StringReader;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import net.fortuna.ical4j.data.CalendarParserImpl;
import net.fortuna.ical4j.data.ContentHandler;
import net.fortuna.ical4j.data.ParserException;

/** Reads iCalendar text into its components and lines, without giving them any meaning yet. */
final class ContentLines implements ContentHandler {
    private static final String PREFIX = "BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\n";
    private static final int PREFIX_LINES = 2;
    private static final int MOST_LINES = 1_000_000;

    private final List<Component> components = new ArrayList<>();
    private final List<Component> open = new ArrayList<>();
    private Line line = new Line("");
    private int lines;

    private ContentLines() {}

    /** A component such as VEVENT. */
    record Component(String name, List<Line> lines) {
        List<Line> all(String property) {
            return lines.stream().filter(line -> line.name.equals(property)).toList();
        }
    }

    /** A property as written; names in upper case. */
    static final class Line {
        final String name;
        final Map<String, String> parameters = new LinkedHashMap<>();
        String value = "";

        Line(String name) {
            this.name = name;
        }

        String parameter(String parameter) {
            return parameters.getOrDefault(parameter, "");
        }

        @Override
        public String toString() {
            return name + ":" + value;
        }
    }

    /**
     * Reads a whole file.
     *
     * @throws ScheduleSyntaxException if it is no iCalendar file; the place is a line
     */
    static List<Component> ofFile(Reader reader, String name) throws IOException {
        return read(reader, name, 0);
    }

    /** Reads the lines of one component. */
    static List<Line> ofText(String text) {
        StringBuilder whole = new StringBuilder(PREFIX);
        text.strip().lines().forEach(each -> whole.append(unindented(each)).append("\r\n"));
        whole.append("END:VEVENT\r\nEND:VCALENDAR\r\n");
        try {
            List<Component> components = read(new StringReader(whole.toString()), "rule", PREFIX_LINES);
            if (components.size() != 1) {
                throw Problems.of("rule", "BEGIN", 0, "has components inside; only its lines are expected");
            }
            return components.get(0).lines;
        } catch (IOException e) {
            throw new IllegalStateException("a text in memory is always readable", e);
        }
    }

    /** A line that is indented as part of a definition file is no folded one: it names a property itself. */
    private static String unindented(String each) {
        String stripped = each.strip();
        return stripped.matches("(?i)(DTSTART|RRULE|RDATE|EXDATE|EXRULE)[;:].*") ? stripped : each.stripTrailing();
    }

    private static List<Component> read(Reader reader, String name, int ignoredLines) throws IOException {
        ContentLines handler = new ContentLines();
        try {
            new CalendarParserImpl().parse(reader, handler);
        } catch (ParserException e) {
            String rule = String.valueOf(e.getMessage()).replaceFirst("^Error at line \\d+:\\s*", "");
            throw Problems.atLine(name, Math.max(1, e.getLineNo() - ignoredLines), "is not iCalendar: " + rule);
        } catch (ScheduleSyntaxException e) {
            throw e;
        } catch (RuntimeException e) {
            // The library meets some malformed lines with exceptions of any kind.
            throw Problems.of(name, "", 0, "is not iCalendar: " + e.getMessage());
        }
        return handler.components;
    }

    @Override
    public void startCalendar() {
        // Nothing to keep of it.
    }

    @Override
    public void endCalendar() {
        // Nothing to keep of it.
    }

    @Override
    public void startComponent(String name) {
        Component component = new Component(name.toUpperCase(Locale.ROOT), new ArrayList<>());
        components.add(component);
        open.add(component);
    }

    @Override
    public void endComponent(String name) {
        if (!open.isEmpty()) {
            open.remove(open.size() - 1);
        }
    }

    @Override
    public void startProperty(String name) {
        line = new Line(name.toUpperCase(Locale.ROOT));
        lines++;
        if (lines > MOST_LINES) {
            throw Problems.of("calendar", "", 0, "has more than " + MOST_LINES + " lines");
        }
    }

    @Override
    public void propertyValue(String value) {
        line.value = value;
    }

    @Override
    public void endProperty(String name) {
        if (!open.isEmpty()) {
            open.get(open.size() - 1).lines.add(line);
        }
    }

    @Override
    public void parameter(String name, String value) {
        String plain = value.length() > 1 && value.startsWith("\"") && value.endsWith("\"")
                ? value.substring(1, value.length() - 1)
                : value;
        line.parameters.put(name.toUpperCase(Locale.ROOT), plain);
    }
}
