package dev.brume.why;

import java.util.List;
import java.util.stream.Stream;

/**
 * Why something is as it is.
 *
 * @param sentence the answer, in one sentence
 * @param facts what it rests on, in order
 */
public record Answer(String sentence, List<Fact> facts) {

    /** {@return the same with one more fact} */
    Answer with(Fact fact) {
        return new Answer(
                sentence, Stream.concat(facts.stream(), Stream.of(fact)).toList());
    }

    /**
     * A fact.
     *
     * @param name a word or two
     * @param text the fact, in words
     */
    public record Fact(String name, String text) {}
}
