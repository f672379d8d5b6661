package dev.brume.internal.document;

import dev.brume.schedule.Durations;
import dev.brume.schedule.Nearest;
import dev.brume.schedule.ScheduleProblem;
import dev.brume.schedule.ScheduleSyntaxException;
import java.time.Duration;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Function;
import java.util.function.Supplier;
import java.util.stream.IntStream;

/**
 * Reads the keys of one mapping in a document; what is wrong is noted, never thrown.
 *
 * <p>Confined to one thread.
 */
public final class Fields {
    private final String path;
    private final Map<String, Object> values;
    private final List<DocumentProblem> problems;

    private Fields(String path, Map<String, Object> values, List<DocumentProblem> problems) {
        this.path = path;
        this.values = values;
        this.problems = problems;
    }

    /**
     * Opens a mapping, noting every key that is not allowed there.
     *
     * @return empty if the value is no mapping, which is noted too
     */
    public static Optional<Fields> open(
            String path, Object value, List<String> allowed, List<DocumentProblem> problems) {
        if (!(value instanceof Map<?, ?> map)) {
            problems.add(DocumentProblem.at(
                    path, "expected a mapping with the keys " + String.join(", ", allowed) + ", found " + kind(value)));
            return Optional.empty();
        }
        Map<String, Object> values = new LinkedHashMap<>();
        map.forEach((key, content) -> {
            String name = String.valueOf(key);
            if (allowed.contains(name) && content == null) {
                problems.add(DocumentProblem.at(join(path, name), "has no value (give it one, or leave the key out)"));
            } else if (allowed.contains(name)) {
                values.put(name, content);
            } else {
                String guess = Nearest.to(name, allowed)
                        .map(word -> "; did you mean " + word + "?")
                        .orElse("");
                problems.add(new DocumentProblem(
                        join(path, name),
                        /* atKey= */ true,
                        0,
                        "unknown key '" + name + "' (allowed: " + String.join(", ", allowed) + ")" + guess));
            }
        });
        return Optional.of(new Fields(path, values, problems));
    }

    /** {@return the path of a key of this mapping} */
    public String path(String key) {
        return join(path, key);
    }

    /** Joins a path and a key or index. */
    public static String join(String path, Object key) {
        return path.isEmpty() ? String.valueOf(key) : path + "/" + key;
    }

    /** {@return whether a key is there} */
    public boolean has(String key) {
        return values.containsKey(key);
    }

    /** {@return the raw value of a key} */
    public Optional<Object> raw(String key) {
        return Optional.ofNullable(values.get(key));
    }

    /** Notes a problem with the value of a key. */
    public void note(String key, String message) {
        problems.add(DocumentProblem.at(path(key), message));
    }

    /** Notes a problem with the mapping as a whole. */
    public void noteHere(String message) {
        problems.add(DocumentProblem.at(path, message));
    }

    /** Reads a text. */
    public Optional<String> text(String key) {
        return typed(key, String.class, "a text; put it in quotes");
    }

    /** Reads a text, or a number or flag as it is written. */
    public Optional<String> scalar(String key) {
        return raw(key).flatMap(value -> {
            if (value instanceof Map || value instanceof List) {
                note(key, "expected a text, found " + kind(value));
                return Optional.empty();
            }
            return Optional.of(String.valueOf(value));
        });
    }

    /** Reads a flag. */
    public Optional<Boolean> flag(String key) {
        return typed(key, Boolean.class, "true or false");
    }

    /** Reads a whole number. */
    public Optional<Integer> integer(String key) {
        return raw(key).flatMap(value -> {
            if (value instanceof Integer number) {
                return Optional.of(number);
            }
            note(key, "expected a whole number, found " + kind(value));
            return Optional.empty();
        });
    }

    /** Reads a number. */
    public Optional<Double> number(String key) {
        return raw(key).flatMap(value -> {
            if (value instanceof Number number) {
                return Optional.of(number.doubleValue());
            }
            note(key, "expected a number, found " + kind(value));
            return Optional.empty();
        });
    }

    /** Reads a duration such as {@code 30s}. */
    public Optional<Duration> duration(String key) {
        return scalar(key).flatMap(text -> read(key, () -> Durations.parse(text)));
    }

    /** Reads one of a few words. */
    public <T> Optional<T> word(String key, Map<String, T> words) {
        return scalar(key).flatMap(text -> {
            T meaning = words.get(text);
            if (meaning == null) {
                String guess = Nearest.to(text, words.keySet())
                        .map(word -> "; did you mean " + word + "?")
                        .orElse("");
                note(key, "'" + text + "' is not one of " + String.join(", ", words.keySet()) + guess);
            }
            return Optional.ofNullable(meaning);
        });
    }

    /** Reads a list of texts; numbers and flags in it are taken as written. */
    public Optional<List<String>> texts(String key) {
        return raw(key).flatMap(value -> {
            if (!(value instanceof List<?> list)) {
                note(key, "expected a list of texts, found " + kind(value));
                return Optional.empty();
            }
            List<String> texts = new ArrayList<>();
            for (int i = 0; i < list.size(); i++) {
                Object item = list.get(i);
                if (item == null || item instanceof Map || item instanceof List) {
                    problems.add(DocumentProblem.at(join(path(key), i), "expected a text, found " + kind(item)));
                } else {
                    texts.add(String.valueOf(item));
                }
            }
            return Optional.of(texts);
        });
    }

    /** Reads a list of durations such as {@code [10s, 1m]}. */
    public Optional<List<Duration>> durations(String key) {
        return texts(key).map(texts -> {
            List<Duration> durations = new ArrayList<>();
            for (int i = 0; i < texts.size(); i++) {
                String text = texts.get(i);
                readAt(join(path(key), i), () -> Durations.parse(text)).ifPresent(durations::add);
            }
            return durations;
        });
    }

    /**
     * Reads a list of whole numbers and ranges of them such as {@code [2, 64-78]}.
     *
     * @param least that is allowed, inclusive
     * @param most that is allowed, inclusive
     */
    public Optional<Set<Integer>> numbers(String key, int least, int most) {
        return texts(key).map(texts -> {
            Set<Integer> numbers = new TreeSet<>();
            for (int i = 0; i < texts.size(); i++) {
                String text = texts.get(i);
                readAt(join(path(key), i), () -> range(text, least, most)).ifPresent(numbers::addAll);
            }
            return numbers;
        });
    }

    private static List<Integer> range(String text, int least, int most) {
        String wrong = "'" + text + "' is not a number or range within " + least + " to " + most + ", such as " + least
                + " or " + least + "-" + (least + 9);
        try {
            int dash = text.indexOf('-');
            int from = Integer.parseInt((dash < 0 ? text : text.substring(0, dash)).strip());
            int to = dash < 0 ? from : Integer.parseInt(text.substring(dash + 1).strip());
            if (from < least || to > most || from > to) {
                throw new IllegalArgumentException(wrong);
            }
            return IntStream.rangeClosed(from, to).boxed().toList();
        } catch (NumberFormatException e) {
            throw new IllegalArgumentException(wrong, e);
        }
    }

    private <T> Optional<T> readAt(String where, Supplier<T> step) {
        try {
            return Optional.of(step.get());
        } catch (ScheduleSyntaxException refused) {
            refused.problems()
                    .forEach(problem -> problems.add(DocumentProblem.at(where, problem.sentenceWithoutField())));
        } catch (IllegalArgumentException refused) {
            problems.add(DocumentProblem.at(where, message(refused)));
        }
        return Optional.empty();
    }

    /** Opens a mapping under a key. */
    public Optional<Fields> mapping(String key, List<String> allowed) {
        return raw(key).flatMap(value -> open(path(key), value, allowed, problems));
    }

    /** Reads a mapping of texts under a key, whatever its keys. */
    public Map<String, String> textMap(String key) {
        Map<String, String> texts = new LinkedHashMap<>();
        raw(key).ifPresent(value -> {
            if (!(value instanceof Map<?, ?> map)) {
                note(key, "expected a mapping of names to texts, found " + kind(value));
                return;
            }
            map.forEach((name, text) -> {
                if (text == null || text instanceof Map || text instanceof List) {
                    problems.add(DocumentProblem.at(join(path(key), name), "expected a text, found " + kind(text)));
                } else {
                    texts.put(String.valueOf(name), String.valueOf(text));
                }
            });
        });
        return texts;
    }

    /** Takes the value of a step that may refuse it; the refusal is noted at the key. */
    public <T> Optional<T> read(String key, Supplier<T> step) {
        try {
            return Optional.of(step.get());
        } catch (ScheduleSyntaxException refused) {
            for (ScheduleProblem problem : refused.problems()) {
                String sentence = key.equals("cron") ? problem.sentence() : problem.sentenceWithoutField();
                problems.add(new DocumentProblem(path(key), false, problem.index(), sentence));
            }
        } catch (IllegalArgumentException refused) {
            note(key, message(refused));
        }
        return Optional.empty();
    }

    /** Takes the value of a step that may refuse the mapping; each refusal is noted at the key it names, else here. */
    public <T> Optional<T> readHere(Supplier<T> step) {
        try {
            return Optional.of(step.get());
        } catch (ScheduleSyntaxException refused) {
            for (ScheduleProblem problem : refused.problems()) {
                if (values.containsKey(problem.field())) {
                    note(problem.field(), problem.sentenceWithoutField());
                } else {
                    noteHere(problem.sentence());
                }
            }
        } catch (IllegalArgumentException refused) {
            String message = String.valueOf(refused.getMessage());
            String key = message.replaceFirst(":.*", "");
            if (values.containsKey(key)) {
                note(key, message.substring(key.length() + 1).strip());
            } else {
                noteHere(message);
            }
        }
        return Optional.empty();
    }

    /** Hands a value on to a setter that may refuse it; the refusal is noted at the key. */
    public <T> void set(String key, Optional<T> value, Function<T, ?> setter) {
        value.ifPresent(content -> read(key, () -> setter.apply(content)));
    }

    private <T> Optional<T> typed(String key, Class<T> type, String expected) {
        return raw(key).flatMap(value -> {
            if (type.isInstance(value)) {
                return Optional.of(type.cast(value));
            }
            note(key, "expected " + expected + ", found " + kind(value));
            return Optional.empty();
        });
    }

    private static String kind(Object value) {
        if (value == null) {
            return "nothing";
        }
        if (value instanceof Map) {
            return "a mapping";
        }
        if (value instanceof List) {
            return "a list";
        }
        return value instanceof String ? "the text '" + value + "'" : String.valueOf(value);
    }

    private static String message(IllegalArgumentException refused) {
        return Objects.requireNonNullElseGet(refused.getMessage(), refused::toString);
    }
}
