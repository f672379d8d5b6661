package dev.brume.history;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.ArrayList;
import java.util.List;
import java.util.SplittableRandom;
import java.util.TreeSet;
import org.junit.jupiter.api.RepeatedTest;
import org.junit.jupiter.api.RepetitionInfo;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** Numbers kept as ranges, against plain sets of numbers. */
class IdRangesTest {
    @Test
    void neighboursAreOneRange() {
        assertThat(IdRanges.of(List.of(7L, 5L, 6L, 9L, 9L))).hasToString("5-7,9");
        assertThat(IdRanges.between(3, 2)).isEqualTo(IdRanges.NONE).hasToString("");
        assertThat(IdRanges.parse("1-3,4-5,9")).hasToString("1-5,9");
    }

    @ParameterizedTest
    @ValueSource(strings = {"5-3", "3,2", "1-4,4", "x", "1,", "-4", "1--2"})
    void whatIsNoSetOfRangesIsRefused(String text) {
        assertThatThrownBy(() -> IdRanges.parse(text)).isInstanceOf(IllegalArgumentException.class);
    }

    @RepeatedTest(50)
    void setsAreAddedAndSubtractedLikeAnyOthers(RepetitionInfo repetition) {
        SplittableRandom random = new SplittableRandom(repetition.getCurrentRepetition());
        TreeSet<Long> a = numbers(random);
        TreeSet<Long> b = numbers(random);
        TreeSet<Long> sum = new TreeSet<>(a);
        sum.addAll(b);
        TreeSet<Long> rest = new TreeSet<>(a);
        rest.removeAll(b);

        IdRanges ranges = IdRanges.of(a);
        assertThat(ranges.plus(IdRanges.of(b))).isEqualTo(IdRanges.of(sum));
        assertThat(ranges.minus(IdRanges.of(b))).isEqualTo(IdRanges.of(rest));
        assertThat(ranges.count()).isEqualTo(a.size());
        assertThat(IdRanges.parse(ranges.toString())).isEqualTo(ranges);
        for (long number = 0; number < 60; number++) {
            assertThat(ranges.contains(number)).isEqualTo(a.contains(number));
        }
    }

    private static TreeSet<Long> numbers(SplittableRandom random) {
        List<Long> numbers = new ArrayList<>();
        for (int i = random.nextInt(40); i > 0; i--) {
            numbers.add((long) random.nextInt(60));
        }
        return new TreeSet<>(numbers);
    }
}
