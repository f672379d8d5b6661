package dev.brume.history;

import dev.brume.Attempt;
import dev.brume.internal.text.Digests;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Optional;
import java.util.SortedMap;
import java.util.TreeMap;

/**
 * What a run was given, returned and said, as digests: all of its record that may be about a person, and that can be erased.
 *
 * @param payload the digest of what it was given; empty if that was nothing
 * @param result the digest of what it returned
 * @param errors the digests of what its attempts failed of, by attempt
 * @param outputs what its attempts printed, by attempt
 * @since 0.1.0
 */
public record Content(
        Optional<String> payload,
        Optional<String> result,
        SortedMap<Integer, String> errors,
        SortedMap<Integer, Printed> outputs) {

    /** Nothing. */
    public static final Content NONE =
            new Content(Optional.empty(), Optional.empty(), new TreeMap<>(), new TreeMap<>());

    /** Creates a content of copies of the maps. */
    public Content {
        errors = Collections.unmodifiableSortedMap(new TreeMap<>(errors));
        outputs = Collections.unmodifiableSortedMap(new TreeMap<>(outputs));
    }

    /** {@return what is on record of a run} */
    public static Content of(RunView run, List<Printed> printed) {
        SortedMap<Integer, String> errors = new TreeMap<>();
        for (Attempt attempt : run.attempts()) {
            attempt.error().ifPresent(error -> errors.put(attempt.number(), Digests.sha256(error)));
        }
        SortedMap<Integer, Printed> outputs = new TreeMap<>();
        printed.forEach(output -> outputs.put(output.attempt(), output));
        return new Content(run.payload().map(Digests::sha256), run.result().map(Digests::sha256), errors, outputs);
    }

    /** {@return whether there is nothing of it} */
    public boolean isEmpty() {
        return payload.isEmpty() && result.isEmpty() && errors.isEmpty() && outputs.isEmpty();
    }

    /** {@return this, with what it lacks from another} */
    public Content orElse(Content erased) {
        SortedMap<Integer, String> allErrors = new TreeMap<>(erased.errors);
        allErrors.putAll(errors);
        SortedMap<Integer, Printed> allOutputs = new TreeMap<>(erased.outputs);
        allOutputs.putAll(outputs);
        return new Content(payload.or(erased::payload), result.or(erased::result), allErrors, allOutputs);
    }

    /** {@return what there is of it, in words} */
    public String words() {
        List<String> words = new ArrayList<>();
        payload.ifPresent(digest -> words.add("payload"));
        result.ifPresent(digest -> words.add("result"));
        if (!errors.isEmpty()) {
            words.add(count(errors.size(), "error"));
        }
        if (!outputs.isEmpty()) {
            words.add("output of " + count(outputs.size(), "attempt"));
        }
        return words.isEmpty() ? "nothing" : String.join(", ", words);
    }

    private static String count(int number, String word) {
        return number + " " + word + (number == 1 ? "" : "s");
    }

    /** {@return it as one text, a part a line, for {@link #parse}} */
    public String text() {
        List<String> lines = new ArrayList<>();
        payload.ifPresent(digest -> lines.add("payload " + digest));
        result.ifPresent(digest -> lines.add("result " + digest));
        errors.forEach((attempt, digest) -> lines.add("error " + attempt + " " + digest));
        outputs.values()
                .forEach(printed -> lines.add("output " + printed.attempt() + " " + printed.bytes() + " "
                        + printed.omitted() + " " + printed.digest()));
        return String.join("\n", lines);
    }

    /**
     * Reads a text.
     *
     * @throws IllegalArgumentException if {@link #text} writes no such text
     */
    public static Content parse(String text) {
        Optional<String> payload = Optional.empty();
        Optional<String> result = Optional.empty();
        SortedMap<Integer, String> errors = new TreeMap<>();
        SortedMap<Integer, Printed> outputs = new TreeMap<>();
        for (String line : text.lines().toList()) {
            String[] parts = line.split(" ", -1);
            switch (parts[0] + parts.length) {
                case "payload2" -> payload = Optional.of(parts[1]);
                case "result2" -> result = Optional.of(parts[1]);
                case "error3" -> errors.put(Integer.parseInt(parts[1]), parts[2]);
                case "output5" -> {
                    int attempt = Integer.parseInt(parts[1]);
                    outputs.put(
                            attempt,
                            new Printed(attempt, Long.parseLong(parts[2]), Long.parseLong(parts[3]), parts[4]));
                }
                default -> throw new IllegalArgumentException("'" + line + "' is no digest of a run's content");
            }
        }
        return new Content(payload, result, errors, outputs);
    }
}
