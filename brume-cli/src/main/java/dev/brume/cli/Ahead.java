package dev.brume.cli;

import dev.brume.jdbc.EmbeddedDatabase;
import dev.brume.server.HttpServer;
import java.util.List;
import java.util.Set;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Loads what a command that stays takes while its command line is read and its database opens. */
final class Ahead {
    private static final Logger LOG = LoggerFactory.getLogger(Ahead.class);
    private static final Set<String> STAYING = Set.of("serve", "console");

    private Ahead() {}

    /** Begins to, beside whatever comes next. */
    static void load(String[] args) {
        List<String> words = List.of(args);
        if (words.isEmpty() || !STAYING.contains(words.get(0))) {
            return;
        }
        Thread thread = new Thread(() -> load(words), "brume-ahead");
        thread.setDaemon(true);
        thread.start();
    }

    /** What goes wrong here goes wrong again where it is needed, and is told there. */
    private static void load(List<String> words) {
        try {
            warmUp(words);
        } catch (RuntimeException e) {
            LOG.debug("not everything was loaded ahead", e);
        }
    }

    private static void warmUp(List<String> words) {
        if (System.getenv("BRUME_DATABASE") == null && !isGiven("--database", words)) {
            EmbeddedDatabase.warmUp();
        }
        if (words.get(0).equals("console") || isGiven("--http", words)) {
            HttpServer.warmUp();
        }
    }

    private static boolean isGiven(String option, List<String> words) {
        return words.stream().anyMatch(word -> word.equals(option) || word.startsWith(option + "="));
    }
}
