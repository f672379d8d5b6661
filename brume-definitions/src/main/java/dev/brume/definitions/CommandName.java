package dev.brume.definitions;

import dev.brume.JobName;
import java.util.ArrayDeque;
import java.util.Arrays;
import java.util.Deque;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Pattern;

/**
 * What a job is called after the shell command that it runs: the program that does the work, not the one that asks whether it is there, nor the one that only starts it.
 * Stateless.
 */
final class CommandName {
    private static final int LONGEST = 60;

    /** What stands between the commands of a line. */
    private static final Pattern BETWEEN = Pattern.compile("&&|\\|\\||[;|&()\\n]");

    private static final Pattern INSERTED = Pattern.compile("\\$\\([^()]*\\)|`[^`]*`");
    private static final Set<String> KEYWORDS =
            Set.of("if", "then", "else", "elif", "while", "until", "do", "!", "{", "time");

    /** What asks, waits or prepares. */
    private static final Set<String> ASKING = Set.of(
            "[", "[[", "test", "cd", ".", "source", ":", "true", "false", "export", "umask", "sleep", "which",
            "command", "type", "hash", "set", "ulimit", "exit", "fi", "done", "}", "wait", "trap", "for", "case",
            "esac", "pgrep", "read");

    /** What may be the work, if nothing else is there. */
    private static final Set<String> SMALL =
            Set.of("echo", "printf", "cat", "date", "grep", "logger", "mail", "mkdir", "rm", "touch");

    private static final Set<String> STARTERS = Set.of(
            "nice",
            "ionice",
            "sudo",
            "doas",
            "exec",
            "nohup",
            "timeout",
            "flock",
            "env",
            "setsid",
            "stdbuf",
            "chronic",
            "chrt",
            "taskset",
            "systemd-cat");
    private static final Pattern INTERPRETERS =
            Pattern.compile("sh|bash|dash|ksh|zsh|ash|(python|perl|ruby|php|node|lua)[0-9.]*|java|run-parts|xargs");

    private CommandName() {}

    /** {@return the name; {@code job} if nothing in the command can be one} */
    static String of(String command) {
        String plain = INSERTED.matcher(command).replaceAll("x");
        List<String> commands = Arrays.asList(BETWEEN.split(plain));
        return commands.stream()
                .flatMap(each -> name(each, /* evenSmall= */ false).stream())
                .findFirst()
                .or(() -> commands.stream()
                        .flatMap(each -> name(each, /* evenSmall= */ true).stream())
                        .findFirst())
                .orElse("job");
    }

    private static Optional<String> name(String command, boolean evenSmall) {
        Deque<String> words = new ArrayDeque<>();
        for (String word : command.strip().split("\\s+")) {
            String bare = word.replaceAll("^[\"']+|[\"']+$", "");
            if (!bare.isEmpty()) {
                words.add(bare);
            }
        }
        boolean isStarted = false;
        while (!words.isEmpty()) {
            String word = words.removeFirst();
            String program = word.replaceFirst("^.*/", "");
            if (KEYWORDS.contains(word) || word.matches("[A-Za-z_][A-Za-z0-9_]*=.*")) {
                continue;
            }
            if (ASKING.contains(word) || SMALL.contains(program) && !evenSmall) {
                return Optional.empty();
            }
            if (isStarted && (word.startsWith("-") || word.matches("[0-9.]+[smhd]?"))) {
                if (word.matches("-u|--user")) {
                    words.pollFirst();
                }
                continue;
            }
            if (STARTERS.contains(program) || INTERPRETERS.matcher(program).matches()) {
                isStarted = true;
                if (program.equals("flock")) {
                    dropLock(words);
                }
                continue;
            }
            return usable(program);
        }
        return Optional.empty();
    }

    /** The file that is locked is no program. */
    private static void dropLock(Deque<String> words) {
        while (!words.isEmpty()
                && (words.peekFirst().startsWith("-") || words.peekFirst().matches("[0-9]+"))) {
            words.removeFirst();
        }
        words.pollFirst();
    }

    private static Optional<String> usable(String program) {
        String name = program.replaceAll("\\.(sh|bash|py|pl|rb|php|js|jar)$", "")
                .toLowerCase(Locale.ROOT)
                .replaceAll("[^a-z0-9_-]+", "-")
                .replaceAll("^-+|-+$", "");
        String cut = name.substring(0, Math.min(name.length(), LONGEST));
        return JobName.isName(cut) ? Optional.of(cut) : Optional.empty();
    }
}
