package dev.brume.schedule;

import java.util.Optional;

/**
 * One thing that is wrong with a schedule's text.
 *
 * @param field the field or key it stands in, such as {@code day-of-month}
 * @param text the offending piece, as written
 * @param index its place in the whole text, counted from 0
 * @param rule what is wrong and what is allowed
 * @param suggestion what was probably meant, if that can be said
 * @since 0.1.0
 */
public record ScheduleProblem(String field, String text, int index, String rule, Optional<String> suggestion) {

    static ScheduleProblem of(String field, String text, int index, String rule) {
        return new ScheduleProblem(field, text, index, rule, Optional.empty());
    }

    ScheduleProblem suggesting(String better) {
        return new ScheduleProblem(field, text, index, rule, Optional.of(better));
    }

    /** {@return the sentence without its place: field, text, rule and suggestion} */
    public String sentence() {
        return field + ": " + sentenceWithoutField();
    }

    /** {@return the sentence for where the field is named already: text, rule and suggestion} */
    public String sentenceWithoutField() {
        String what = text.isEmpty() ? rule : "'" + text + "' " + rule;
        return suggestion.map(better -> what + "; did you mean " + better + "?").orElse(what);
    }

    /**
     * {@return the sentence, with the column counted from 1 where it says more than that all of it is meant}
     *
     * @param whole the text that it stands in
     */
    public String within(String whole) {
        return isWhole(whole) ? sentence() : toString();
    }

    /** {@return whether all of a text is meant} */
    boolean isWhole(String whole) {
        return index == 0 && text.equals(whole) || whole.isBlank();
    }

    /** {@return the sentence with the column, counted from 1} */
    @Override
    public String toString() {
        return sentence() + " (column " + (index + 1) + ")";
    }
}
