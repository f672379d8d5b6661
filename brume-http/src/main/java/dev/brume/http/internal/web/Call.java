package dev.brume.http.internal.web;

import com.fasterxml.jackson.core.JsonFactory;
import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.core.StreamReadConstraints;
import com.fasterxml.jackson.core.StreamReadFeature;
import com.fasterxml.jackson.jr.ob.JSON;
import dev.brume.Brume;
import dev.brume.JobName;
import dev.brume.Orders;
import dev.brume.Role;
import dev.brume.history.History;
import dev.brume.history.JobFilter;
import dev.brume.history.JobView;
import dev.brume.http.Caller;
import dev.brume.http.HttpLimits;
import dev.brume.insight.past.AsItWas;
import dev.brume.internal.document.DocumentProblem;
import dev.brume.internal.document.Fields;
import dev.brume.schedule.Nearest;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalInt;
import java.util.Set;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;

/** A request for an operation, read and checked as far as its description goes. Confined to one thread. */
public final class Call {
    /** As of when what is on record is told. */
    public static final Param<Instant> AS_OF = Param.instant(
            "asOf", "Tells it as it was at that instant: definitions by version, runs, instances, pauses and limits.");

    private static final int LONGEST_KEY = 200;

    private final Operation operation;
    private final Brume brume;
    private final HttpLimits limits;
    private final Caller caller;
    private final Incoming incoming;
    private final Map<String, String> places;
    private final Map<String, Object> values = new LinkedHashMap<>();
    private final List<DocumentProblem> problems = new ArrayList<>();
    private String because = "";
    private @Nullable History asItWas;

    /**
     * Creates a call.
     *
     * @param places what the path has in the places of the operation's
     */
    public Call(
            Operation operation,
            Brume brume,
            HttpLimits limits,
            Caller caller,
            Incoming incoming,
            Map<String, String> places) {
        this.operation = operation;
        this.brume = brume;
        this.limits = limits;
        this.caller = caller;
        this.incoming = incoming;
        this.places = places;
    }

    /** {@return the operation that is asked for} */
    public Operation operation() {
        return operation;
    }

    /** {@return the instance that answers} */
    public Brume brume() {
        return brume;
    }

    /** {@return what can be looked at, as it stands now or, if that is asked for, as it was} */
    public History history() {
        Optional<Instant> then = get(AS_OF);
        if (then.isEmpty()) {
            return brume.history();
        }
        if (asItWas == null) {
            asItWas = read(then.get());
        }
        return asItWas;
    }

    private History read(Instant then) {
        try {
            return AsItWas.of(brume.history(), then);
        } catch (IllegalArgumentException e) {
            throw Problem.ofParameter(AS_OF.name(), String.valueOf(e.getMessage()));
        }
    }

    /** {@return the jobs that a filter lets through; one behind which the next ones are asked for may be gone} */
    public List<JobView> jobs(JobFilter filter) {
        try {
            return history().jobs(filter);
        } catch (IllegalArgumentException e) {
            throw Problem.ofParameter("after", String.valueOf(e.getMessage()));
        }
    }

    /** {@return as of when the answer is; empty if it is of now} */
    public Optional<Instant> asOf() {
        return get(AS_OF);
    }

    /** {@return the bounds of requests} */
    public HttpLimits limits() {
        return limits;
    }

    /** {@return who asks} */
    public Caller caller() {
        return caller;
    }

    /** {@return what has come in} */
    public Incoming incoming() {
        return incoming;
    }

    // The address.

    /** Reads the parameters of the address; all that is wrong with them is said at once. */
    public void readParams() {
        List<FieldError> errors = new ArrayList<>();
        incoming.query().forEach((name, texts) -> {
            Optional<Param<?>> param = operation.params().stream()
                    .filter(each -> each.name().equals(name))
                    .findFirst();
            if (param.isEmpty()) {
                errors.add(FieldError.ofParameter(Param.shortened(name), unknown(name)));
            } else if (texts.size() > 1) {
                errors.add(FieldError.ofParameter(name, "is given " + texts.size() + " times (expected once)"));
            } else {
                read(param.get(), texts.get(0), errors);
            }
        });
        if (!errors.isEmpty()) {
            throw Problem.invalid(errors);
        }
    }

    private String unknown(String name) {
        List<String> known =
                operation.params().stream().map(Param::name).sorted().toList();
        return "unknown parameter '" + Param.shortened(name) + "' "
                + (known.isEmpty() ? "(there is none here)" : "(allowed: " + String.join(", ", known) + ")")
                + Nearest.to(Param.shortened(name), known)
                        .map(near -> "; did you mean " + near + "?")
                        .orElse("");
    }

    private <T> void read(Param<T> param, String text, List<FieldError> errors) {
        try {
            values.put(param.name(), param.reading().apply(text));
        } catch (IllegalArgumentException e) {
            errors.add(FieldError.ofParameter(param.name(), String.valueOf(e.getMessage())));
        }
    }

    /** {@return the value of a parameter of the address, if it was given} */
    @SuppressWarnings("unchecked")
    public <T> Optional<T> get(Param<T> param) {
        return Optional.ofNullable((T) values.get(param.name()));
    }

    /** {@return what the path has in a place} */
    public String place(String name) {
        return places.getOrDefault(name, "");
    }

    /** {@return the number that the path has in a place; there is nothing where it has none} */
    public long number(String name) {
        String text = place(name);
        if (!text.matches("\\d{1,18}")) {
            throw new Problem(Problem.Kind.NOT_THERE, "there is no " + name + " '" + Param.shortened(text) + "'");
        }
        return Long.parseLong(text);
    }

    /** {@return the name of the job that the path has} */
    public JobName jobName() {
        try {
            return new JobName(place("namespace"), place("job"));
        } catch (IllegalArgumentException e) {
            throw new Problem(
                    Problem.Kind.NOT_THERE,
                    "there is no job '" + Param.shortened(place("namespace") + "/" + place("job"))
                            + "', and there can be none of that name (a name is " + JobName.RULE + ")");
        }
    }

    /** {@return the job that the path has} */
    public JobView job() {
        JobName name = jobName();
        return history().job(name).orElseThrow(() -> notThere(name));
    }

    private Problem notThere(JobName name) {
        Optional<JobName> now =
                Optional.ofNullable(history().renamed(List.of(name)).get(name));
        return new Problem(
                        Problem.Kind.NOT_THERE,
                        "there is no job '" + name + "'"
                                + now.map(other -> "; it is called '" + other + "' now")
                                        .orElse(""))
                .about("renamedTo", now);
    }

    // Rights.

    /** {@return the namespaces that the answer is to be about; empty if it is about all} */
    public Set<String> namespaces() {
        return caller.namespaces(operation.role());
    }

    /**
     * {@return the namespaces that the answer is to be about}
     *
     * @param wanted those that are asked for; if they may not be seen, nothing is to be seen
     */
    public Set<String> namespaces(Collection<String> wanted) {
        Set<String> own = namespaces();
        if (wanted.isEmpty()) {
            return own;
        }
        Set<String> both = new TreeSet<>(wanted);
        if (!own.isEmpty()) {
            both.retainAll(own);
        }
        return both.isEmpty() ? Set.of(NOWHERE) : both;
    }

    /** No namespace has a name like it. */
    private static final String NOWHERE = " ";

    /** Refuses what the caller may not see, as if it were not there, or may not do. */
    public void mustBeAllowed(String namespace, String what) {
        mustBeAllowed(operation.role(), namespace, what);
    }

    /** Refuses what the caller may not see, as if it were not there, or what takes another role than the operation itself. */
    public void mustBeAllowed(Role role, String namespace, String what) {
        if (!caller.may(Role.VIEWER, namespace)) {
            throw new Problem(Problem.Kind.NOT_THERE, "there is no " + what);
        }
        if (!caller.may(role, namespace)) {
            throw Rights.missing(caller, role, Optional.of(namespace));
        }
    }

    // The body.

    /** {@return the members of the body; an empty object where nothing was sent} */
    public Fields body() {
        List<String> names = operation.body().orElseThrow().members().stream()
                .map(Member::name)
                .toList();
        byte[] bytes = incoming.body(limits.body());
        Object read = bytes.length == 0 ? Map.of() : json(bytes);
        Fields fields = Fields.open("", read, names, problems).orElseThrow(this::invalid);
        fields.text(Member.BECAUSE.name()).ifPresent(text -> because = text);
        operation.body().get().members().stream()
                .filter(member -> member.required() && !fields.has(member.name()))
                .forEach(member -> fields.note(member.name(), "is missing"));
        return fields;
    }

    /** Refuses the body if anything was found to be wrong with it. */
    public void check() {
        if (!problems.isEmpty()) {
            throw invalid();
        }
    }

    private Problem invalid() {
        return Problem.invalid(problems.stream().map(FieldError::of).toList());
    }

    private Object json(byte[] bytes) {
        requireJson();
        JsonFactory factory = JsonFactory.builder()
                .enable(StreamReadFeature.STRICT_DUPLICATE_DETECTION)
                .streamReadConstraints(StreamReadConstraints.builder()
                        .maxNestingDepth(limits.depth())
                        .maxNumberLength(100)
                        .build())
                .build();
        try {
            return JSON.builder(factory).build().anyFrom(text(bytes));
        } catch (JsonProcessingException e) {
            int line = Math.max(1, e.getLocation() == null ? 1 : e.getLocation().getLineNr());
            int column =
                    Math.max(1, e.getLocation() == null ? 1 : e.getLocation().getColumnNr());
            throw Problem.invalid(List.of(new FieldError(
                    Optional.of(""),
                    Optional.empty(),
                    OptionalInt.of(line),
                    OptionalInt.of(column),
                    "the body is no JSON: "
                            + e.getOriginalMessage().lines().findFirst().orElse(""))));
        } catch (IOException e) {
            throw new Problem(Problem.Kind.INVALID, "the body could not be read to its end");
        }
    }

    private void requireJson() {
        String type = incoming.contentType();
        if (!type.equals(Reply.JSON)) {
            throw new Problem(
                            Problem.Kind.UNKNOWN_FORM,
                            "the body is "
                                    + (type.isEmpty() ? "of no stated type" : "'" + Param.shortened(type) + "'")
                                    + " (expected Content-Type: application/json)")
                    .with("Accept", Reply.JSON);
        }
    }

    /** {@return the document that was sent} */
    public String document() {
        String type = incoming.contentType();
        if (!Set.of(Reply.JSON, "application/yaml", "text/yaml").contains(type)) {
            throw new Problem(
                            Problem.Kind.UNKNOWN_FORM,
                            "the document is "
                                    + (type.isEmpty() ? "of no stated type" : "'" + Param.shortened(type) + "'")
                                    + " (expected Content-Type: application/yaml or application/json)")
                    .with("Accept", "application/yaml, " + Reply.JSON);
        }
        return text(incoming.body(limits.document()));
    }

    private static String text(byte[] bytes) {
        try {
            return StandardCharsets.UTF_8
                    .newDecoder()
                    .decode(ByteBuffer.wrap(bytes))
                    .toString();
        } catch (CharacterCodingException e) {
            throw new Problem(Problem.Kind.INVALID, "the body is not UTF-8");
        }
    }

    // Orders.

    /** {@return the orders of the caller, with their reason and from where they are} */
    public Orders plainOrders() {
        return brume.orders(caller.name(), because).from(incoming.address());
    }

    /** {@return the same, and once if they gave a key} */
    public Orders orders() {
        Orders orders = plainOrders();
        Optional<String> key = incoming.header("Idempotency-Key");
        if (key.isEmpty() || !operation.method().equals("POST")) {
            return orders;
        }
        String plain = key.get().replaceFirst("^\"(.*)\"$", "$1");
        if (plain.isBlank() || plain.length() > LONGEST_KEY) {
            throw new Problem(Problem.Kind.INVALID, "Idempotency-Key: expected 1 to " + LONGEST_KEY + " characters");
        }
        return orders.once(plain);
    }
}
