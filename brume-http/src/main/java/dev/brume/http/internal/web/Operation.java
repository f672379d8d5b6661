package dev.brume.http.internal.web;

import dev.brume.Role;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionStage;

/**
 * Something that can be asked for over HTTP: how, by whom, and what is answered. All that is known of it is said here, once: it is routed, checked
 * and described by it.
 *
 * @param method of HTTP
 * @param path below the version of the interface, with places such as {@code {namespace}}
 * @param id its name for programs
 * @param title what it does, in a sentence
 * @param text the rest of it
 * @param group it is described in
 * @param role that whoever asks must have
 * @param where they must have it
 * @param params of the address
 * @param body that is sent; empty if there is none
 * @param answer if it could be carried out
 * @param places examples of the places in its path
 * @param handling carries it out
 */
public record Operation(
        String method,
        String path,
        String id,
        String title,
        String text,
        String group,
        Role role,
        Where where,
        List<Param<?>> params,
        Optional<Body> body,
        Answer answer,
        Map<String, String> places,
        Handling handling) {

    /** Where somebody must have a role. */
    public enum Where {
        /** In the namespace that the path names. */
        NAMESPACE,
        /** In any namespace; what is answered is of those alone in which they have it. */
        ANYWHERE,
        /** Everywhere, since it concerns the whole cluster. */
        EVERYWHERE
    }

    /** Carries an operation out. */
    @FunctionalInterface
    public interface Handling {
        /** Answers now or later. */
        CompletionStage<Reply> handle(Call call);
    }

    /** Carries an operation out at once. */
    @FunctionalInterface
    public interface Answering {
        /** Answers. */
        Reply answer(Call call);
    }

    /**
     * What is sent.
     *
     * @param members of the object that it is; none if it is a document
     * @param document whether it is a document of definitions, in JSON or YAML
     * @param example of it
     */
    public record Body(List<Member> members, boolean document, Object example) {}

    /** {@return an operation that lets look, described so far only by its name} */
    public static Operation get(String path, String id, String title) {
        return of("GET", path, id, title).needs(Role.VIEWER);
    }

    /** {@return an operation of a method, described so far only by its name} */
    public static Operation of(String method, String path, String id, String title) {
        return new Operation(
                method,
                path,
                id,
                title,
                "",
                path.split("/")[1],
                Role.OPERATOR,
                path.contains("{namespace}") ? Where.NAMESPACE : Where.ANYWHERE,
                List.of(),
                Optional.empty(),
                Answer.nothing("Done."),
                Map.of(),
                call -> CompletableFuture.failedFuture(new IllegalStateException("not handled")));
    }

    /** {@return the same with more to say} */
    public Operation says(String more) {
        return new Operation(method, path, id, title, more, group, role, where, params, body, answer, places, handling);
    }

    /** {@return the same for those with a role} */
    public Operation needs(Role least) {
        return new Operation(
                method, path, id, title, text, group, least, where, params, body, answer, places, handling);
    }

    /** {@return the same for those who have the role everywhere} */
    public Operation everywhere() {
        return new Operation(
                method, path, id, title, text, group, role, Where.EVERYWHERE, params, body, answer, places, handling);
    }

    /** {@return the same with parameters of the address} */
    public Operation takes(Param<?>... more) {
        List<Param<?>> all = new ArrayList<>(params);
        all.addAll(List.of(more));
        return new Operation(method, path, id, title, text, group, role, where, all, body, answer, places, handling);
    }

    /** {@return the same with a body of some members} */
    public Operation sends(Map<String, Object> example, Member... members) {
        return sends(new Body(List.of(members), /* document= */ false, example));
    }

    /** {@return the same with a document of definitions as its body} */
    public Operation sendsDocument(Object example) {
        return sends(new Body(List.of(), /* document= */ true, example));
    }

    private Operation sends(Body what) {
        return new Operation(
                method, path, id, title, text, group, role, where, params, Optional.of(what), answer, places, handling);
    }

    /** {@return the same with its answer} */
    public Operation answers(Answer what) {
        return new Operation(method, path, id, title, text, group, role, where, params, body, what, places, handling);
    }

    /** {@return the same with an example of each place in its path, by its name} */
    public Operation at(String... namesAndValues) {
        Map<String, String> all = new LinkedHashMap<>();
        for (int i = 0; i < namesAndValues.length; i += 2) {
            all.put(namesAndValues[i], namesAndValues[i + 1]);
        }
        return new Operation(method, path, id, title, text, group, role, where, params, body, answer, all, handling);
    }

    /** {@return the same, carried out at once} */
    public Operation by(Answering answering) {
        return byAndBy(call -> CompletableFuture.completedFuture(answering.answer(call)));
    }

    /** {@return the same, carried out now or later} */
    public Operation byAndBy(Handling how) {
        return new Operation(method, path, id, title, text, group, role, where, params, body, answer, places, how);
    }

    /** {@return whether it changes something} */
    public boolean changes() {
        return !method.equals("GET");
    }
}
