package dev.brume;

import dev.brume.schedule.Durations;
import dev.brume.schedule.Nearest;
import java.time.Duration;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.time.format.DateTimeParseException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Properties;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.Function;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * Settings of an instance and its store as texts, from properties, a map, or the environment.
 *
 * <p>Keys begin with {@code brume.}; whatever else is in a map is left alone, so that an application's own properties can be given as they are. A
 * key that does not exist is refused. Immutable.
 *
 * @see Brume.Builder#configure
 * @since 0.1.0
 */
public final class Configuration {
    private static final String PREFIX = "brume.";
    private static final String IN_ENVIRONMENT = "BRUME_";
    private static final Set<String> FLAGS = Set.of("true", "false");

    /** What the command and the programs that an instance runs have in their environment, which is no setting of an instance. */
    private static final Set<String> OTHERS = Set.of(
            "BRUME_ARCHIVE",
            "BRUME_ATTEMPT",
            "BRUME_COLUMNS",
            "BRUME_COMMAND",
            "BRUME_DATA",
            "BRUME_DATABASE",
            "BRUME_FENCE",
            "BRUME_JAVA_OPTIONS",
            "BRUME_JOB",
            "BRUME_OPTIONS",
            "BRUME_PARENT",
            "BRUME_PARENT_JOB",
            "BRUME_PARENT_OUTCOME",
            "BRUME_PARENT_RESULT",
            "BRUME_PARENT_RESULT_FILE",
            "BRUME_PAYLOAD",
            "BRUME_PAYLOAD_FILE",
            "BRUME_PLANNED",
            "BRUME_RUN",
            "BRUME_TEST_MARIADB",
            "BRUME_TEST_POSTGRES",
            "BRUME_TREE");

    /** What a cluster of containers tells every process of a service that is named brume. */
    private static final Pattern OF_A_SERVICE = Pattern.compile("BRUME_(SERVICE_(HOST|PORT)|PORT)(_.*)?");

    private static final Map<String, Key> KEYS = Stream.of(
                    new Key("instance", "The instance's name.", "host and process id", "quay-1"),
                    new Key("user", "For which user of the system it works, on record.", "nobody", "mara"),
                    new Key("workers", "How many runs of the lane main at once.", "16", "32"),
                    new Key(
                            "lanes",
                            "Workers of each lane that it serves, and of no others.",
                            "main=16",
                            "main=8, bulk=4"),
                    new Key("labels", "Labels that it carries, which jobs may require.", "none", "crane, north"),
                    new Key(
                            "takes",
                            "Kinds of work beside handlers: programs, requests.",
                            "neither",
                            "programs, requests"),
                    new Key("lease", "After a crash, runs go on elsewhere when this is over.", "15s", "10s"),
                    new Key("poll", "How often it looks for what it was not told of.", "1s", "5s"),
                    new Key("drain-limit", "How long runs may go on when it stops.", "30s", "2m"),
                    new Key("batch", "How many rows one transaction handles.", "500", "200"),
                    new Key(
                            "built-at",
                            "When the application was built: of two builds that define a job, the later one holds.",
                            "Build-Time in the manifest",
                            "2026-11-30T08:15:00Z"),
                    new Key(
                            "virtual-threads",
                            "Whether work is carried out on virtual threads, where the runtime has them.",
                            "false",
                            "true"),
                    new Key("log", "Whether it writes what happens to the log.", "true", "false"),
                    new Key(
                            "stop-with-process",
                            "Whether it stops in good order when the process is told to end.",
                            "false",
                            "true"),
                    new Key("schema", "The schema that its tables are in, on PostgreSQL.", "the connection's", "timed"),
                    new Key(
                            "schema-changes",
                            "What it does to the tables: create, upgrade those that are there, or none.",
                            "create",
                            "none"),
                    new Key(
                            "calls",
                            "Whether instances call each other when something is due, on PostgreSQL.",
                            "true",
                            "false"),
                    new Key(
                            "statement-limit",
                            "How long one statement or wait may last.",
                            "10s, or two thirds of the shortest lease",
                            "3s"))
            .collect(Collectors.toMap(Key::name, key -> key, (a, b) -> a, LinkedHashMap::new));

    private final Map<String, String> values;
    private final Function<String, String> naming;

    /**
     * A key that there is.
     *
     * @param name without {@code brume.}
     * @param meaning a sentence
     * @param usual what holds unless it is set, in words
     * @param example a value
     */
    public record Key(String name, String meaning, String usual, String example) {
        /** {@return how it is written in properties, such as {@code brume.drain-limit}} */
        public String property() {
            return PREFIX + name;
        }

        /** {@return how it is written in the environment, such as {@code BRUME_DRAIN_LIMIT}} */
        public String variable() {
            return IN_ENVIRONMENT + name.replace('-', '_').toUpperCase(Locale.ROOT);
        }
    }

    private Configuration(Map<String, String> values, Function<String, String> naming) {
        this.values = values;
        this.naming = naming;
    }

    /** {@return all keys there are} */
    public static List<Key> keys() {
        return List.copyOf(KEYS.values());
    }

    /**
     * {@return the settings of a map}
     *
     * @param map by key, such as {@code brume.lease}; what does not begin with {@code brume.} is left alone
     * @throws IllegalArgumentException naming every key that does not exist
     */
    public static Configuration of(Map<String, String> map) {
        Map<String, String> values = new LinkedHashMap<>();
        List<String> unknown = new ArrayList<>();
        new TreeMap<>(map).forEach((key, value) -> {
            if (key.startsWith(PREFIX)) {
                String name = key.substring(PREFIX.length());
                if (KEYS.containsKey(name)) {
                    values.put(name, value);
                } else {
                    unknown.add(unknown(
                            key, KEYS.values().stream().map(Key::property).toList()));
                }
            }
        });
        return checked(values, unknown, name -> PREFIX + name);
    }

    /**
     * {@return the settings of properties}
     *
     * @throws IllegalArgumentException naming every key that does not exist
     * @see #of(Map)
     */
    public static Configuration of(Properties properties) {
        return of(properties.stringPropertyNames().stream()
                .collect(Collectors.toMap(name -> name, properties::getProperty)));
    }

    /**
     * {@return the settings of this process's environment, such as {@code BRUME_LEASE=10s}}
     *
     * @throws IllegalArgumentException naming every variable that begins with {@code BRUME_} and means nothing
     */
    public static Configuration ofEnvironment() {
        return ofEnvironment(System.getenv());
    }

    static Configuration ofEnvironment(Map<String, String> environment) {
        Map<String, String> names = new TreeMap<>();
        KEYS.values().forEach(key -> names.put(key.variable(), key.name));
        Map<String, String> values = new LinkedHashMap<>();
        List<String> unknown = new ArrayList<>();
        new TreeMap<>(environment).forEach((variable, value) -> {
            if (names.containsKey(variable)) {
                values.put(names.get(variable), value);
            } else if (variable.startsWith(IN_ENVIRONMENT) && !isOthers(variable)) {
                unknown.add(unknown(variable, List.copyOf(names.keySet())));
            }
        });
        return checked(
                values, unknown, name -> Objects.requireNonNull(KEYS.get(name)).variable());
    }

    private static boolean isOthers(String variable) {
        return OTHERS.contains(variable) || OF_A_SERVICE.matcher(variable).matches();
    }

    private static Configuration checked(
            Map<String, String> values, List<String> unknown, Function<String, String> naming) {
        if (!unknown.isEmpty()) {
            throw new IllegalArgumentException(String.join("; ", unknown));
        }
        return new Configuration(values, naming);
    }

    private static String unknown(String key, List<String> known) {
        return key + " is no setting of Brume's"
                + Nearest.to(key, known)
                        .map(near -> " (did you mean " + near + "?)")
                        .orElse(" (there are " + String.join(", ", known) + ")");
    }

    /** {@return these settings, and others where these say nothing} */
    public Configuration orElse(Configuration others) {
        Map<String, String> all = new LinkedHashMap<>(others.values);
        all.putAll(values);
        return new Configuration(
                all, name -> values.containsKey(name) ? naming.apply(name) : others.naming.apply(name));
    }

    // Reading them.

    /**
     * Hands a setting on, if there is one.
     *
     * @param key without {@code brume.}
     * @param reading turns the text into what is wanted, and takes it; what it refuses is told with the key
     * @throws IllegalArgumentException naming the key and why its value is refused
     */
    public void read(String key, Setting reading) {
        String value = values.get(key);
        if (value == null) {
            return;
        }
        try {
            reading.take(value.strip());
        } catch (IllegalArgumentException e) {
            throw new IllegalArgumentException(naming.apply(key) + ": " + e.getMessage(), e);
        }
    }

    /** Takes the text of a setting. */
    @FunctionalInterface
    public interface Setting {
        /**
         * Takes it.
         *
         * @throws IllegalArgumentException saying what is wrong with it
         */
        void take(String text);
    }

    /** {@return a duration such as {@code 10s}} */
    public static Duration duration(String text) {
        return Durations.parse(text);
    }

    /**
     * {@return an instant such as {@code 2026-11-30T08:15:00Z}}
     *
     * @throws IllegalArgumentException if it is none
     */
    public static Instant instant(String text) {
        try {
            return OffsetDateTime.parse(text).toInstant();
        } catch (DateTimeParseException e) {
            throw new IllegalArgumentException(
                    "'" + text + "' is not an instant (expected one such as 2026-11-30T08:15:00Z)", e);
        }
    }

    /**
     * {@return a whole number}
     *
     * @throws IllegalArgumentException if it is none
     */
    public static int number(String text) {
        try {
            return Integer.parseInt(text);
        } catch (NumberFormatException e) {
            throw new IllegalArgumentException("'" + text + "' is not a whole number", e);
        }
    }

    /**
     * {@return true or false}
     *
     * @throws IllegalArgumentException if it is neither
     */
    public static boolean flag(String text) {
        if (!FLAGS.contains(text)) {
            throw new IllegalArgumentException("'" + text + "' is neither true nor false");
        }
        return text.equals("true");
    }

    /** {@return what stands between commas, without what is empty} */
    public static List<String> list(String text) {
        return Stream.of(text.split(",", -1))
                .map(String::strip)
                .filter(word -> !word.isEmpty())
                .toList();
    }

    /** {@return what is set, by key in full; passwords are none of its keys} */
    @Override
    public String toString() {
        return values.entrySet().stream()
                .map(entry -> PREFIX + entry.getKey() + "=" + entry.getValue())
                .collect(Collectors.joining(", "));
    }

    /** {@return what one key is set to, without {@code brume.}} */
    public Optional<String> get(String key) {
        return Optional.ofNullable(values.get(key));
    }
}
