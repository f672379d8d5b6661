package dev.brume.spring;

import dev.brume.internal.document.JobDocument;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;
import org.springframework.boot.context.properties.source.ConfigurationProperty;
import org.springframework.boot.context.properties.source.ConfigurationPropertyName;
import org.springframework.boot.context.properties.source.ConfigurationPropertyName.Form;
import org.springframework.boot.context.properties.source.ConfigurationPropertySource;
import org.springframework.boot.context.properties.source.ConfigurationPropertySources;
import org.springframework.core.env.Environment;

/**
 * The documents of jobs that stand under {@code brume.jobs} in the application's properties, in whatever form those have: YAML, properties, the command
 * line. Keys may be written as in definition files or with dashes.
 */
final class JobProperties {
    private static final ConfigurationPropertyName JOBS = BrumeSettings.ROOT.append(BrumeSettings.JOBS);
    private static final int NAME = 2;
    private static final int KEY = 3;
    private static final Pattern NUMBER = Pattern.compile("-?\\d{1,9}");
    private static final Pattern FLAG = Pattern.compile("true|false");
    private static final Pattern PLACE = Pattern.compile("\\$\\{([A-Za-z0-9._-]+)}");

    /** Texts that look like numbers stay texts there. */
    private static final Set<String> TEXTS = Set.of("payload", "description", "lane", "exclusive");

    private final Environment environment;

    JobProperties(Environment environment) {
        this.environment = environment;
    }

    /** {@return the document of each job, by its name, in the order of the properties} */
    Map<String, Map<String, Object>> documents() {
        Map<String, Map<String, Object>> jobs = new LinkedHashMap<>();
        names().forEach((uniform, name) -> {
            String job = name.getElement(NAME, Form.ORIGINAL);
            Map<String, Object> document = jobs.computeIfAbsent(job, any -> new LinkedHashMap<>());
            if (name.getNumberOfElements() > KEY) {
                value(name).ifPresent(value -> put(document, name, KEY, value));
            }
        });
        jobs.values().forEach(JobProperties::withLists);
        return jobs;
    }

    /**
     * The names, each once. The environment cannot tell the names of jobs, which lose their dashes there; it can only say something else about one that
     * is known.
     */
    private Map<ConfigurationPropertyName, ConfigurationPropertyName> names() {
        Map<ConfigurationPropertyName, ConfigurationPropertyName> names = new LinkedHashMap<>();
        BrumeSettings.namesBelow(JOBS, environment).forEach(name -> names.putIfAbsent(name, name));
        return names;
    }

    private Optional<Object> value(ConfigurationPropertyName name) {
        for (ConfigurationPropertySource source : ConfigurationPropertySources.get(environment)) {
            ConfigurationProperty property = source.getConfigurationProperty(name);
            if (property != null) {
                return Optional.of(resolved(name, property.getValue()));
            }
        }
        return Optional.empty();
    }

    private Object resolved(ConfigurationPropertyName name, Object raw) {
        if (!(raw instanceof CharSequence)) {
            return raw;
        }
        String key = name.getElement(KEY, Form.DASHED);
        String text = key.equals("work") ? known(raw.toString()) : environment.resolvePlaceholders(raw.toString());
        if (TEXTS.contains(key)) {
            return text;
        }
        if (NUMBER.matcher(text).matches()) {
            return Integer.valueOf(text);
        }
        return FLAG.matcher(text).matches() ? (Object) Boolean.valueOf(text) : text;
    }

    /** Work has places of its own, such as {@code ${payload}}: only properties with a dot in their name are meant there. */
    private String known(String text) {
        return PLACE.matcher(text).replaceAll(place -> {
            String name = place.group(1);
            String value = name.contains(".") ? environment.getProperty(name) : null;
            return Matcher.quoteReplacement(value == null ? place.group() : value);
        });
    }

    @SuppressWarnings("unchecked")
    private static void put(Map<String, Object> into, ConfigurationPropertyName name, int at, Object value) {
        String key = name.isNumericIndex(at)
                ? name.getElement(at, Form.UNIFORM)
                : key(name.getElement(at, Form.ORIGINAL), at == KEY);
        if (at == name.getNumberOfElements() - 1) {
            into.put(key, value);
        } else {
            Object below = into.computeIfAbsent(key, any -> new LinkedHashMap<String, Object>());
            if (below instanceof Map<?, ?> map) {
                put((Map<String, Object>) map, name, at + 1, value);
            }
        }
    }

    /** {@code if-failed} is {@code ifFailed}; what is no key of ours, such as the name of a header, stays as it is. */
    private static String key(String written, boolean isOfJob) {
        String joined = written.replace("-", "");
        return Keys.ALL.stream()
                .filter(key -> key.equalsIgnoreCase(joined))
                .filter(key -> !isOfJob || JobDocument.keys().contains(key))
                .findFirst()
                .orElse(written);
    }

    /** Mappings from 0, 1, 2 ... are lists. */
    @SuppressWarnings("unchecked")
    private static void withLists(Map<String, Object> document) {
        document.replaceAll((key, value) -> {
            if (!(value instanceof Map<?, ?>)) {
                return value;
            }
            Map<String, Object> map = (Map<String, Object>) value;
            withLists(map);
            @Nullable List<Object> list = list(map);
            return list == null ? map : list;
        });
    }

    private static @Nullable List<Object> list(Map<String, Object> map) {
        Map<Integer, Object> items = new TreeMap<>();
        for (Map.Entry<String, Object> entry : map.entrySet()) {
            if (!NUMBER.matcher(entry.getKey()).matches()) {
                return null;
            }
            items.put(Integer.valueOf(entry.getKey()), entry.getValue());
        }
        return new ArrayList<>(items.values());
    }

    /** The keys within a job's document that have a capital letter. */
    private static final class Keys {
        private static final Set<String> ALL = all();

        private static Set<String> all() {
            Set<String> all = new LinkedHashSet<>(JobDocument.keys());
            all.addAll(
                    List.of("afterEnd", "atMost", "exitCodes", "giveUpOn", "ifDayOff", "notOn", "onlyOn", "retryOn"));
            return all;
        }
    }
}
