package dev.brume.cli;

import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.function.BiConsumer;
import java.util.function.Consumer;
import java.util.function.Function;
import java.util.stream.Collectors;

/** Prints the first few sentences of a kind, and how many more there are: 1,400 alike hide the one that differs. */
final class Repeats {
    private Repeats() {}

    /**
     * Goes through all in their order.
     *
     * @param kind what it is an instance of
     * @param examples how many of a kind are printed
     * @param example is given those
     * @param more is given the last of those of a kind that has more, and how many more
     */
    static <T> void fold(
            List<T> all, Function<T, String> kind, int examples, Consumer<T> example, BiConsumer<T, Integer> more) {
        Map<String, Long> sizes = all.stream().collect(Collectors.groupingBy(kind, Collectors.counting()));
        Map<String, Integer> printed = new HashMap<>();
        for (T each : all) {
            String name = kind.apply(each);
            int number = printed.merge(name, 1, Integer::sum);
            if (number <= examples) {
                example.accept(each);
            }
            int rest = Math.toIntExact(sizes.getOrDefault(name, 0L)) - examples;
            if (number == examples && rest > 0) {
                more.accept(each, rest);
            }
        }
    }

    /** {@return a sentence without what varies from one instance to another: what it quotes, and its numbers} */
    static String kind(String sentence) {
        return sentence.replaceAll("'[^']*'", "'").replaceAll("[0-9][0-9:.,TZ-]*", "0");
    }
}
