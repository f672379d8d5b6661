package dev.brume.internal.work;

import java.io.PrintWriter;
import java.io.StringWriter;
import java.util.ArrayList;
import java.util.List;

/** The text that is kept of an exception: it and its causes, each with the first of its frames, without those of the engine. */
final class StackText {
    private static final int MOST_FRAMES = 12;
    private static final int MOST_LINES = 60;
    private static final int LONGEST_MESSAGE = 2000;

    private StackText() {}

    static String of(Throwable thrown) {
        StringWriter text = new StringWriter();
        thrown.printStackTrace(new PrintWriter(text));
        List<String> own = new ArrayList<>();
        int frames = 0;
        boolean inEngine = false;
        for (String line : text.toString().split("\\R")) {
            boolean isFrame = line.stripLeading().startsWith("at ");
            boolean isRest = line.stripLeading().startsWith("... ");
            if (!isFrame && !isRest) {
                frames = 0;
                inEngine = false;
                own.add(line.length() > LONGEST_MESSAGE ? line.substring(0, LONGEST_MESSAGE) + "..." : line);
                continue;
            }
            inEngine |= line.contains("at dev.brume.internal.engine.Workers.");
            if (isFrame && !inEngine && frames++ < MOST_FRAMES) {
                own.add(line);
            }
        }
        return String.join("\n", own.size() <= MOST_LINES ? own : withRoot(own));
    }

    /** The beginning, and the end, where the cause of all stands. */
    private static List<String> withRoot(List<String> lines) {
        List<String> some = new ArrayList<>(lines.subList(0, MOST_LINES / 2));
        some.add("...");
        some.addAll(lines.subList(lines.size() - MOST_LINES / 2, lines.size()));
        return some;
    }
}
