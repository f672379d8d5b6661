package dev.brume.definitions;

import com.fasterxml.jackson.jr.ob.JSON;
import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.ScheduleSyntaxException;
import dev.brume.schedule.Zones;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;

/**
 * Makes a definition file of a crontab.
 *
 * <p>The five fields and the nicknames mean what they mean there. Lines of environment hold for the entries below them, as
 * they do there; {@code CRON_TZ} is the zone, {@code SHELL} the shell. Comments right above an entry become its description.
 * What cannot be brought over is left out, with the reason. Confined to one thread.
 *
 * @since 0.1.0
 */
public final class Crontab {
    private static final Pattern ENVIRONMENT = Pattern.compile("\\s*([A-Za-z_][A-Za-z0-9_]*)\\s*=\\s*(.*?)\\s*");
    private static final Pattern NICKNAME = Pattern.compile("(@\\w+)\\s+(.*)");
    private static final Pattern FIELDS = Pattern.compile("((?:\\S+\\s+){5})(.*)");
    /** What POSIX holds portable, and a dollar sign at the end as some systems have it; a dash stands for nobody. */
    private static final Pattern USER_NAME = Pattern.compile("-|[A-Za-z0-9_.][A-Za-z0-9_.-]*\\$?");

    private static final Pattern USER = Pattern.compile("(\\S+)\\s+(.*)");

    /** Users that systems come with: an entry that names one after its times is of the system's form. */
    private static final Set<String> USERS = Set.of(
            "root",
            "nobody",
            "daemon",
            "bin",
            "sys",
            "www-data",
            "mail",
            "news",
            "man",
            "backup",
            "list",
            "postgres",
            "mysql",
            "proxy",
            "games",
            "lp",
            "irc",
            "smmsp",
            "_apt");

    private final Form form;
    private final String prefix;
    private String file = "";
    private boolean system;
    private final List<Note> notes = new ArrayList<>();
    private final List<String> comments = new ArrayList<>();
    private final Map<String, String> environment = new LinkedHashMap<>();
    private final Set<String> names = new HashSet<>();
    private final StringBuilder jobs = new StringBuilder();
    private final ZoneId defaultZone;
    private ZoneId zone;
    private String shell = "sh";
    private int count;

    /** Whether entries name a user after their times. */
    public enum Form {
        /** They do, as in {@code /etc/crontab}. */
        SYSTEM,
        /** They do not, as in a user's own. */
        OWN,
        /** A file's entries do if all of them could, and one names a user that systems come with. */
        DETECTED
    }

    /**
     * A crontab.
     *
     * @param name of the file
     * @param text of it
     */
    public record Source(String name, String text) {}

    /**
     * Something to be said of a line.
     *
     * @param file the crontab's name
     * @param line counted from 1
     * @param leftOut whether the line was left out
     * @param text what there is to say
     */
    public record Note(String file, int line, boolean leftOut, String text) {}

    /**
     * What was made.
     *
     * @param yaml the definition file
     * @param jobs how many jobs it has
     * @param notes what is to be said, in the order of lines
     */
    public record Imported(String yaml, int jobs, List<Note> notes) {}

    private Crontab(Form form, ZoneId zone, String prefix) {
        this.form = form;
        this.prefix = prefix;
        this.defaultZone = zone;
        this.zone = zone;
    }

    /**
     * Reads crontabs into one definition file; no two jobs of it have the same name.
     *
     * @param zone that the times are in, unless a file says otherwise
     * @param prefix stands before the name of each job; may be empty
     */
    public static Imported read(List<Source> sources, Form form, ZoneId zone, String prefix) {
        Crontab crontab = new Crontab(form, zone, prefix);
        sources.forEach(crontab::read);
        String head = crontab.head(sources.stream().map(Source::name).toList());
        return new Imported(
                head + (crontab.count == 0 ? "jobs: {}\n" : "jobs:\n" + crontab.jobs),
                crontab.count,
                List.copyOf(crontab.notes));
    }

    private void read(Source source) {
        file = source.name();
        zone = defaultZone;
        shell = "sh";
        environment.clear();
        comments.clear();
        String[] lines = source.text().split("\\R", -1);
        system = form == Form.SYSTEM || form == Form.DETECTED && isOfTheSystem(lines);
        for (int i = 0; i < lines.length; i++) {
            line(i + 1, lines[i]);
        }
    }

    private boolean isOfTheSystem(String[] lines) {
        boolean anyKnown = false;
        for (int i = 0; i < lines.length; i++) {
            String line = lines[i].strip();
            Matcher entry = line.startsWith("@") ? NICKNAME.matcher(line) : FIELDS.matcher(line);
            if (line.isEmpty()
                    || line.startsWith("#")
                    || ENVIRONMENT.matcher(line).matches()
                    || !entry.matches()) {
                continue;
            }
            Matcher user = USER.matcher(entry.group(2));
            if (!user.matches() || !USER_NAME.matcher(user.group(1)).matches()) {
                return false;
            }
            anyKnown |= USERS.contains(user.group(1));
        }
        return anyKnown;
    }

    private String head(List<String> files) {
        return "# Made of the crontab" + (files.size() == 1 ? " " : "s ") + String.join(", ", files) + ".\n"
                + "# Other than cron, Brume does not start a run beside one that goes on (ifBusy: {alongside: N} would), runs each\n"
                + "# occurrence on one of all instances only, and keeps what was printed with the run instead of mailing it.\n"
                + "zone: " + quoted(defaultZone.getId()) + "\n\n";
    }

    private void line(int number, String line) {
        String bare = line.strip();
        if (bare.isEmpty()) {
            comments.clear();
        } else if (bare.startsWith("#")) {
            comments.add(bare.replaceFirst("^#+\\s*", ""));
        } else if (ENVIRONMENT.matcher(line).matches()) {
            variable(number, line);
            comments.clear();
        } else {
            entry(number, bare);
            comments.clear();
        }
    }

    private void leftOut(int line, String why) {
        notes.add(new Note(file, line, /* leftOut= */ true, why));
    }

    private void say(int line, String text) {
        notes.add(new Note(file, line, /* leftOut= */ false, text));
    }

    // Environment.

    private void variable(int number, String line) {
        Matcher matcher = ENVIRONMENT.matcher(line);
        matcher.matches();
        String name = matcher.group(1);
        String value = unquoted(matcher.group(2));
        switch (name) {
            case "CRON_TZ" -> zone(number, value);
            case "SHELL" -> shell = value.isEmpty() ? "sh" : value;
            case "MAILTO", "MAILFROM" ->
                say(
                        number,
                        name
                                + " is not brought over: what runs print is kept beside them (brume show), and a listener can"
                                + " send word of failures");
            case "RANDOM_DELAY" ->
                leftOut(number, "RANDOM_DELAY is not brought over: give the jobs a spread: of that width instead");
            default -> environment.put(name, value);
        }
    }

    private void zone(int number, String value) {
        try {
            zone = value.isEmpty() ? defaultZone : Zones.parse(value);
        } catch (ScheduleSyntaxException e) {
            leftOut(number, "CRON_TZ: " + e.getMessage() + "; the entries below it stay in " + zone);
        }
    }

    private static String unquoted(String text) {
        boolean quoted = text.length() > 1
                && (text.startsWith("\"") && text.endsWith("\"") || text.startsWith("'") && text.endsWith("'"));
        return quoted ? text.substring(1, text.length() - 1) : text;
    }

    // Entries.

    private void entry(int number, String line) {
        Matcher matcher = line.startsWith("@") ? NICKNAME.matcher(line) : FIELDS.matcher(line);
        if (!matcher.matches()) {
            leftOut(
                    number,
                    "is no entry (expected five fields and a command, or a nickname such as @daily and a command): "
                            + line);
            return;
        }
        String times = matcher.group(1).strip().replaceAll("\\s+", " ");
        String rest = matcher.group(2);
        Optional<String> user = Optional.empty();
        if (system) {
            Matcher named = USER.matcher(rest);
            if (!named.matches()) {
                leftOut(
                        number,
                        "names no command after the user '" + rest + "' (is this a crontab of the system's form?)");
                return;
            }
            if (!USER_NAME.matcher(named.group(1)).matches()) {
                leftOut(
                        number,
                        "'" + named.group(1)
                                + "' is no user's name (in a crontab of a user's own, none is given: --form own)");
                return;
            }
            user = Optional.of(named.group(1));
            rest = named.group(2);
        } else if (rest.matches("root\\s.*")) {
            say(number, "the command begins with 'root' (is this of the system's form? then say --form system)");
        }
        if (isReadable(number, times)) {
            add(number, times, user, rest);
        }
    }

    private boolean isReadable(int number, String times) {
        if (times.equals("@reboot")) {
            leftOut(
                    number,
                    "@reboot has no counterpart: nothing here begins with a machine; let the application order the run when it"
                            + " starts");
            return false;
        }
        if (times.contains("~")) {
            leftOut(
                    number,
                    "'" + times
                            + "' has a random time (~), which no one could preview; write a range and give the job a"
                            + " spread:");
            return false;
        }
        try {
            CronSchedule.parse(times, zone);
            return true;
        } catch (ScheduleSyntaxException e) {
            leftOut(number, String.valueOf(e.getMessage()));
            return false;
        }
    }

    /** Where a day field begins with a star, cron asks for both; elsewhere a day that matches either is enough. */
    private boolean asksForBoth(String times) {
        String[] fields = times.split(" ");
        return fields.length == 5
                && (fields[2].startsWith("*") || fields[4].startsWith("*"))
                && CronSchedule.parse(times, zone).eitherDayDecides();
    }

    private void add(int number, String times, Optional<String> user, String rest) {
        CommandLine command = CommandLine.of(rest);
        if (command.text.isBlank()) {
            leftOut(number, "has no command");
            return;
        }
        String name = freeName(command.text);
        user.filter(who -> !who.equals("root") && !who.equals("-"))
                .ifPresent(who -> say(
                        number,
                        name + " ran as the user '" + who
                                + "'; here it runs as the user of the instance (let one that runs as " + who
                                + " carry a label, and require it)"));
        count++;
        jobs.append("  ")
                .append(key(name))
                .append(": # ")
                .append(file)
                .append(" line ")
                .append(number)
                .append('\n');
        String description = String.join(" ", comments).strip();
        if (!description.isEmpty()) {
            jobs.append("    description: ").append(quoted(description)).append('\n');
        }
        String inZone = zone.equals(defaultZone) ? "" : ", zone: " + quoted(zone.getId());
        jobs.append("    when: {cron: ")
                .append(quoted(times))
                .append(asksForBoth(times) ? ", days: both" : "")
                .append(inZone)
                .append("}\n");
        jobs.append("    work:\n      program: [")
                .append(quoted(shell))
                .append(", \"-c\", ")
                .append(quoted(command.shellText()))
                .append("]\n");
        if (!environment.isEmpty()) {
            jobs.append("      environment: {")
                    .append(environment.entrySet().stream()
                            .map(each -> quoted(each.getKey()) + ": " + quoted(each.getValue()))
                            .collect(Collectors.joining(", ")))
                    .append("}\n");
        }
        command.input.ifPresent(
                input -> jobs.append("    payload: ").append(quoted(input)).append('\n'));
        jobs.append("    ifMissed: {run: none}\n");
    }

    /**
     * A command as a crontab has it: an unescaped percent sign ends it, and what follows is its input, with a new line for each
     * further one.
     */
    private record CommandLine(String text, Optional<String> input) {
        static CommandLine of(String raw) {
            List<StringBuilder> parts = new ArrayList<>(List.of(new StringBuilder()));
            for (int i = 0; i < raw.length(); i++) {
                char c = raw.charAt(i);
                if (c == '\\' && i + 1 < raw.length() && raw.charAt(i + 1) == '%') {
                    parts.get(parts.size() - 1).append('%');
                    i++;
                } else if (c == '%') {
                    parts.add(new StringBuilder());
                } else {
                    parts.get(parts.size() - 1).append(c);
                }
            }
            Optional<String> input = parts.size() == 1
                    ? Optional.empty()
                    : Optional.of(String.join("\n", parts.subList(1, parts.size())))
                            .map(text -> text.endsWith("\n") ? text : text + "\n");
            return new CommandLine(parts.get(0).toString().strip(), input);
        }

        /** The input comes as the run's payload. */
        String shellText() {
            return input.isPresent() ? "printf '%s' \"$BRUME_PAYLOAD\" | { " + text + "\n}" : text;
        }
    }

    // Names.

    private String freeName(String command) {
        String base = prefix + CommandName.of(command);
        String name = base;
        for (int i = 2; !names.add(name); i++) {
            name = base + "-" + i;
        }
        return name;
    }

    /** A name that other readers of YAML would take for a number, a truth or nothing is quoted. */
    private static String key(String name) {
        return name.matches("true|false|yes|no|on|off|y|n|null|[0-9].*") ? quoted(name) : name;
    }

    /** What JSON quotes is quoted for YAML too. */
    private static String quoted(String text) {
        try {
            return JSON.std.asString(text);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
