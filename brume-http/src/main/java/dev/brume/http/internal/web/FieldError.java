package dev.brume.http.internal.web;

import dev.brume.definitions.DefinitionProblem;
import dev.brume.definitions.Views;
import dev.brume.internal.document.DocumentProblem;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalInt;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * One thing that is wrong with what was sent.
 *
 * @param pointer to it within the body, as RFC 6901 has it; empty if it is not in the body
 * @param parameter of the address that it is in
 * @param line where text was sent, counted from 1
 * @param column where text was sent, counted from 1
 * @param detail what is wrong, and what is allowed
 */
public record FieldError(
        Optional<String> pointer, Optional<String> parameter, OptionalInt line, OptionalInt column, String detail) {
    private static final Pattern NEAR = Pattern.compile("did you mean (.{1,200}?)\\?");
    private static final Pattern ALLOWED =
            Pattern.compile("\\(allowed: ([^)]{1,2000})\\)|is not one of ([^;]{1,2000})");

    /** {@return an error in a member of the body} */
    public static FieldError of(DocumentProblem problem) {
        String pointer = problem.path().isEmpty() ? "" : "/" + problem.path().replace("~", "~0");
        return new FieldError(
                Optional.of(pointer), Optional.empty(), OptionalInt.empty(), OptionalInt.empty(), problem.message());
    }

    /** {@return an error in a document} */
    public static FieldError of(DefinitionProblem problem) {
        return new FieldError(
                Optional.of(problem.pointer()),
                Optional.empty(),
                OptionalInt.of(problem.line()),
                OptionalInt.of(problem.column()),
                problem.message());
    }

    /** {@return an error in a parameter of the address} */
    public static FieldError ofParameter(String name, String detail) {
        return new FieldError(Optional.empty(), Optional.of(name), OptionalInt.empty(), OptionalInt.empty(), detail);
    }

    /** {@return an error in a member of the body that the body itself does not tell} */
    public static FieldError ofMember(String pointer, String detail) {
        return new FieldError(Optional.of(pointer), Optional.empty(), OptionalInt.empty(), OptionalInt.empty(), detail);
    }

    Map<String, Object> view() {
        Map<String, Object> view = new LinkedHashMap<>();
        pointer.ifPresent(text -> view.put("pointer", text));
        parameter.ifPresent(text -> view.put("parameter", text));
        line.ifPresent(number -> view.put("line", number));
        column.ifPresent(number -> view.put("column", number));
        view.put("detail", detail);
        allowed().ifPresent(words -> view.put("allowed", words));
        Matcher near = NEAR.matcher(detail);
        if (near.find()) {
            view.putAll(Views.object("suggestion", near.group(1)));
        }
        return view;
    }

    /** What is allowed is said in the message, in the same words everywhere. */
    private Optional<List<String>> allowed() {
        Matcher words = ALLOWED.matcher(detail);
        return words.find()
                ? Optional.of(Arrays.asList((words.group(1) == null ? words.group(2) : words.group(1)).split(", ")))
                : Optional.empty();
    }
}
