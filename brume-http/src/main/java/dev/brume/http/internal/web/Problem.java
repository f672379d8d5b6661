package dev.brume.http.internal.web;

import dev.brume.definitions.Views;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;

/** Thrown when a request cannot be answered as it was meant; says so as RFC 9457 has it. */
public final class Problem extends RuntimeException {
    private static final long serialVersionUID = 1L;

    /** Where types of problems are described. */
    public static final String TYPES = "https://brume.dev/docs/http.md#";

    private final Kind kind;
    private final transient List<FieldError> errors;
    private final transient Map<String, Object> about = new LinkedHashMap<>();
    private final transient Map<String, String> headers = new LinkedHashMap<>();

    /** What can be in the way. */
    public enum Kind {
        /** Something in the address or the body is wrong. */
        INVALID(400, "Something in the request is wrong"),
        /** Nobody said who they are, or what they said lets nobody in. */
        WHO_IS_IT(401, "Say who you are"),
        /** They may not. */
        NOT_ALLOWED(403, "You may not do this"),
        /** There is nothing of that name, or nothing that they may see. */
        NOT_THERE(404, "There is no such thing"),
        /** The address is there, the method is not. */
        NO_SUCH_METHOD(405, "This cannot be done to it"),
        /** The body took too long to come. */
        TOO_SLOW(408, "The request took too long to come"),
        /** It stands in the way of something else. */
        CONFLICT(409, "Something else is in the way"),
        /** Someone else changed it meanwhile. */
        CHANGED_MEANWHILE(412, "Someone else changed it meanwhile"),
        /** Too much was sent. */
        TOO_LARGE(413, "That is too much"),
        /** It was sent in a form that is not understood. */
        UNKNOWN_FORM(415, "That form is not understood"),
        /** It was understood, and cannot be carried out as it is. */
        REFUSED(422, "This cannot be carried out"),
        /** What was seen has to be said, so that nobody's change is lost. */
        SAY_WHAT_YOU_SAW(428, "Say which version you saw"),
        /** A header, or all of them, are too large. */
        HEADERS_TOO_LARGE(431, "The headers are too large"),
        /** Something here is broken. */
        BROKEN(500, "Something here is broken"),
        /** The store is away, or too much is asked at once. */
        NOT_NOW(503, "Not now");

        private final int status;
        private final String title;

        Kind(int status, String title) {
            this.status = status;
            this.title = title;
        }

        /** {@return the status of the answer} */
        public int status() {
            return status;
        }

        /** {@return what it is in few words} */
        public String title() {
            return title;
        }

        /** {@return its name in addresses} */
        public String word() {
            return name().toLowerCase(Locale.ROOT).replace('_', '-');
        }
    }

    /** Creates a problem. */
    public Problem(Kind kind, String detail) {
        this(kind, detail, List.of());
    }

    /** Creates a problem with what is wrong in several places. */
    public Problem(Kind kind, String detail, List<FieldError> errors) {
        super(detail);
        this.kind = kind;
        this.errors = List.copyOf(errors);
    }

    /** {@return a problem with what is wrong in one or several places} */
    public static Problem invalid(List<FieldError> errors) {
        String detail = errors.size() == 1 ? errors.get(0).detail() : errors.size() + " things are wrong; see errors";
        return new Problem(Kind.INVALID, detail, errors);
    }

    /** {@return a problem with a parameter of the address} */
    public static Problem ofParameter(String name, String detail) {
        return invalid(List.of(FieldError.ofParameter(name, detail)));
    }

    /** Adds a member to the answer, of something that it is about, if there is any. */
    public Problem about(String member, Optional<?> value) {
        value.ifPresent(some -> about.putAll(Views.object(member, some)));
        return this;
    }

    /** Adds a header to the answer. */
    public Problem with(String header, String value) {
        headers.put(header, value);
        return this;
    }

    /** {@return what is in the way} */
    public Kind kind() {
        return kind;
    }

    /** {@return the answer} */
    public Reply reply() {
        Map<String, Object> view = Views.object(
                "type", TYPES + kind.word(), "title", kind.title(), "status", kind.status(), "detail", getMessage());
        view.putAll(about);
        if (!errors.isEmpty()) {
            view.put("errors", errors.stream().map(FieldError::view).toList());
        }
        Reply reply = Reply.json(kind.status(), view).as("application/problem+json");
        for (Map.Entry<String, String> header : headers.entrySet()) {
            reply = reply.with(header.getKey(), header.getValue());
        }
        return reply;
    }

    @Override
    public synchronized Throwable fillInStackTrace() {
        return this;
    }
}
