package dev.brume.spring;

import dev.brume.Configuration;
import dev.brume.schedule.Nearest;
import java.time.Duration;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Function;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import java.util.stream.StreamSupport;
import org.springframework.boot.context.properties.bind.Bindable;
import org.springframework.boot.context.properties.bind.Binder;
import org.springframework.boot.context.properties.source.ConfigurationPropertyName;
import org.springframework.boot.context.properties.source.ConfigurationPropertySources;
import org.springframework.boot.context.properties.source.IterableConfigurationPropertySource;
import org.springframework.core.env.Environment;
import org.springframework.core.env.SystemEnvironmentPropertySource;

/** What the application's properties say under {@code brume.}: the settings of the instance and its store, and those of this module. */
final class BrumeSettings {
    static final ConfigurationPropertyName ROOT = ConfigurationPropertyName.of("brume");
    static final String JOBS = "jobs";

    private static final Duration PHASE = Duration.ofSeconds(30);
    private static final Duration SLACK = Duration.ofSeconds(5);

    /** This module's own, beside those of {@link Configuration}. */
    static final List<Configuration.Key> OWN = List.of(
            new Configuration.Key("enabled", "Whether Brume is set up at all.", "true", "false"),
            new Configuration.Key(
                    "start",
                    "Whether the instance takes work; one that does not defines, orders and looks.",
                    "true",
                    "false"),
            new Configuration.Key(
                    "data-source",
                    "The bean that is the data source, if there are several.",
                    "the only or primary one",
                    "harbour"),
            new Configuration.Key(
                    "transaction-manager",
                    "The bean whose transactions runs commit in, if there are several.",
                    "the only or primary one",
                    "harbourTransactions"),
            new Configuration.Key(
                    "join-transactions",
                    "Whether orders of one-offs are part of the transaction that goes on.",
                    "true",
                    "false"),
            new Configuration.Key(
                    "definitions",
                    "Definition files, as resources.",
                    "classpath:brume.yaml, if it is there",
                    "classpath:harbour.yaml"),
            new Configuration.Key("zone", "The zone of schedules that name none.", "none", "Atlantic/Azores"),
            new Configuration.Key(
                    "json",
                    "What reads payloads as JSON, if both are there: jackson2, jackson3.",
                    "whichever is there",
                    "jackson3"),
            new Configuration.Key(
                    "http-path",
                    "Where Brume is served over HTTP, if brume-http is there.",
                    "it is not served",
                    "/brume"),
            new Configuration.Key(
                    "http-framed-by",
                    "Origins whose pages may show the form that asks when something shall happen, with commas between them.",
                    "none may",
                    "https://ferry.merrow.example"),
            new Configuration.Key("metrics-jobs", "How many jobs have a label of their own in metrics.", "200", "50"),
            new Configuration.Key(
                    "run-in-baggage", "Whether the run's id goes along as baggage of traces.", "false", "true"));

    private final Environment environment;
    private final Map<String, String> values = new LinkedHashMap<>();

    BrumeSettings(Environment environment) {
        this.environment = environment;
        Binder binder = Binder.get(environment);
        known().forEach(name -> read(binder, name).ifPresent(value -> values.put(name, value)));
        checkNames();
    }

    private static List<String> known() {
        List<String> all = new ArrayList<>();
        Configuration.keys().forEach(key -> all.add(key.name()));
        OWN.forEach(key -> all.add(key.name()));
        return all;
    }

    /** A text, a list of texts, or, as workers of lanes may be written, a mapping. */
    private static Optional<String> read(Binder binder, String name) {
        String property = "brume." + name;
        if (name.equals("lanes")) {
            Map<String, String> lanes = binder.bind(property, Bindable.mapOf(String.class, String.class))
                    .orElse(Map.of());
            if (!lanes.isEmpty()) {
                return Optional.of(lanes.entrySet().stream()
                        .map(lane -> lane.getKey() + "=" + lane.getValue())
                        .collect(Collectors.joining(", ")));
            }
        }
        return Optional.ofNullable(
                        binder.bind(property, Bindable.listOf(String.class)).orElse(null))
                .map(texts -> String.join(", ", texts));
    }

    /** A name that means nothing is mostly a known one with a letter too few. Variables of the environment may be others'. */
    private void checkNames() {
        Set<String> unknown = new TreeSet<>();
        Set<String> names = new TreeSet<>(known());
        names.add(JOBS);
        namesBelow(ROOT, environment)
                .map(name -> name.getElement(1, ConfigurationPropertyName.Form.DASHED))
                .filter(name -> names.stream().noneMatch(each -> isSame(each, name)))
                .forEach(unknown::add);
        if (!unknown.isEmpty()) {
            String first = unknown.iterator().next();
            throw new SetupException(
                    unknown.stream().map(name -> "brume." + name).collect(Collectors.joining(", "))
                            + (unknown.size() == 1 ? " is no property" : " are no properties") + " of Brume's",
                    Nearest.to(first, names)
                            .map(near -> "did you mean brume." + near + "?")
                            .orElse("there are brume." + String.join(", brume.", names)));
        }
    }

    private static boolean isSame(String known, String name) {
        return known.replace("-", "").equals(name.replace("-", ""));
    }

    /** {@return the names below one, but for those that the variables of the environment may have: their dashes are lost, and they may be others'} */
    static Stream<ConfigurationPropertyName> namesBelow(ConfigurationPropertyName root, Environment environment) {
        return StreamSupport.stream(
                        ConfigurationPropertySources.get(environment).spliterator(), /* parallel= */ false)
                .filter(source -> !(source.getUnderlyingSource() instanceof SystemEnvironmentPropertySource))
                .filter(IterableConfigurationPropertySource.class::isInstance)
                .flatMap(source -> ((IterableConfigurationPropertySource) source).stream())
                .filter(root::isAncestorOf);
    }

    Environment environment() {
        return environment;
    }

    /** {@return the settings of the instance and of the store} */
    Configuration configuration() {
        Map<String, String> all = new LinkedHashMap<>();
        Configuration.keys().forEach(key -> {
            String value = values.get(key.name());
            if (value != null) {
                all.put(key.property(), value);
            }
        });
        return Configuration.of(all).orElse(Configuration.of(defaults()));
    }

    /** What Spring is told already need not be told again: nobody waits longer for runs than for a phase of the shutdown. */
    private Map<String, String> defaults() {
        Binder binder = Binder.get(environment);
        Duration phase = binder.bind("spring.lifecycle.timeout-per-shutdown-phase", Duration.class)
                .orElse(PHASE);
        Duration drain = phase.compareTo(SLACK.multipliedBy(2)) > 0 ? phase.minus(SLACK) : phase.dividedBy(2);
        return Map.of(
                "brume.virtual-threads",
                environment.getProperty("spring.threads.virtual.enabled", "false"),
                "brume.drain-limit",
                drain.toMillis() + "ms");
    }

    Optional<String> text(String name) {
        return Optional.ofNullable(values.get(name)).map(String::strip).filter(text -> !text.isEmpty());
    }

    boolean flag(String name, boolean otherwise) {
        return text(name).map(text -> read(name, text, Configuration::flag)).orElse(otherwise);
    }

    int number(String name, int otherwise) {
        return text(name).map(text -> read(name, text, Configuration::number)).orElse(otherwise);
    }

    static <T> T read(String name, String text, Function<String, T> reading) {
        try {
            return reading.apply(text);
        } catch (IllegalArgumentException e) {
            throw new SetupException("brume." + name + ": " + e.getMessage(), "correct that property");
        }
    }

    List<String> list(String name) {
        return text(name).map(Configuration::list).orElse(List.of());
    }
}
