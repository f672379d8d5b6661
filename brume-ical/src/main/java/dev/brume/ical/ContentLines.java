package dev.brume.ical;

import dev.brume.ical.TextLines.TextLine;
import dev.brume.schedule.ScheduleSyntaxException;
import java.io.IOException;
import java.io.StringReader;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.regex.Pattern;
import net.fortuna.ical4j.data.CalendarParserImpl;
import net.fortuna.ical4j.data.ContentHandler;
import net.fortuna.ical4j.data.ParserException;

/** Reads lines of iCalendar text as properties, without giving them any meaning yet. */
final class ContentLines implements ContentHandler {
    private static final String PREFIX = "BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\n";
    private static final int PREFIX_LINES = 2;
    private static final Pattern OF_RULES = Pattern.compile("(?i)(DTSTART|RRULE|RDATE|EXDATE|EXRULE)[;:].*");

    private final List<Line> found = new ArrayList<>();
    private final List<TextLine> texts;
    private Line line = new Line("", 0);

    private ContentLines(List<TextLine> texts) {
        this.texts = texts;
    }

    /** A property as written; names in upper case. */
    static final class Line {
        final String name;
        final int number;
        final Map<String, String> parameters = new LinkedHashMap<>();
        String value = "";

        Line(String name, int number) {
            this.name = name;
            this.number = number;
        }

        String parameter(String parameter) {
            return parameters.getOrDefault(parameter, "");
        }

        @Override
        public String toString() {
            return name + ":" + value;
        }
    }

    /** Reads the lines of a rule, which may be folded and, as part of another text, indented. */
    static List<Line> ofRule(String text) {
        StringBuilder whole = new StringBuilder();
        int indent = text.length();
        for (String each : text.lines().filter(some -> !some.isBlank()).toList()) {
            indent = Math.min(indent, each.length() - each.stripLeading().length());
        }
        for (String each : text.lines().toList()) {
            boolean begins = OF_RULES.matcher(each.strip()).matches();
            whole.append(
                            begins
                                    ? each.strip()
                                    : each.isBlank()
                                            ? ""
                                            : each.substring(indent).stripTrailing())
                    .append('\n');
        }
        List<TextLine> lines = TextLines.of(whole.toString().getBytes(StandardCharsets.UTF_8), "rule");
        for (TextLine each : lines) {
            if (each.text().regionMatches(/* ignoreCase= */ true, 0, "BEGIN:", 0, "BEGIN:".length())) {
                throw Problems.of("rule", "BEGIN", 0, "has components inside; only its lines are expected");
            }
        }
        return of(lines, "rule");
    }

    /**
     * Reads lines.
     *
     * @throws ScheduleSyntaxException if one is no property; the place is its line
     */
    static List<Line> of(List<TextLine> lines, String name) {
        StringBuilder whole = new StringBuilder(PREFIX);
        lines.forEach(each -> whole.append(each.text()).append("\r\n"));
        whole.append("END:VEVENT\r\nEND:VCALENDAR\r\n");
        ContentLines handler = new ContentLines(lines);
        try {
            new CalendarParserImpl().parse(new StringReader(whole.toString()), handler);
        } catch (ParserException e) {
            int at = Math.max(0, Math.min(lines.size() - 1, e.getLineNo() - PREFIX_LINES - 1));
            throw handler.unreadable(name, at);
        } catch (ScheduleSyntaxException e) {
            throw e;
        } catch (IOException | RuntimeException e) {
            // The library meets some malformed lines with exceptions of any kind.
            throw handler.unreadable(name, handler.found.size());
        }
        return handler.found;
    }

    private ScheduleSyntaxException unreadable(String name, int at) {
        TextLine text = texts.isEmpty() ? new TextLine(1, "") : texts.get(Math.min(at, texts.size() - 1));
        return Problems.atLine(
                name,
                text.number(),
                "is not iCalendar (expected NAME:VALUE or NAME;PARAMETER=VALUE:VALUE): '"
                        + Problems.shortened(text.text()) + "'");
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
        // The one that stands around the lines.
    }

    @Override
    public void endComponent(String name) {
        // The one that stands around the lines.
    }

    @Override
    public void startProperty(String name) {
        line = new Line(name.toUpperCase(Locale.ROOT), texts.get(found.size()).number());
    }

    @Override
    public void propertyValue(String value) {
        line.value = value;
    }

    @Override
    public void endProperty(String name) {
        found.add(line);
    }

    @Override
    public void parameter(String name, String value) {
        String plain = value.length() > 1 && value.startsWith("\"") && value.endsWith("\"")
                ? value.substring(1, value.length() - 1)
                : value;
        line.parameters.put(name.toUpperCase(Locale.ROOT), plain);
    }
}
