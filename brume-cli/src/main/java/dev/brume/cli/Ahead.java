package dev.brume.cli;

import dev.brume.jdbc.EmbeddedDatabase;
import dev.brume.server.HttpServer;
import java.util.List;
import java.util.Set;

/** Loads what a command that stays takes while its command line is read and its database opens. */
final class Ahead {
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

    private static void load(List<String> words) {
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
