package dev.brume.http.internal.resource;

import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Mask;
import dev.brume.Role;
import dev.brume.definitions.JsonText;
import dev.brume.definitions.Views;
import dev.brume.history.JobView;
import dev.brume.history.OneOffView;
import dev.brume.history.RunView;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.FieldError;
import dev.brume.http.internal.web.Param;
import dev.brume.http.internal.web.Problem;
import dev.brume.internal.document.Fields;
import dev.brume.internal.document.JobDocument;
import java.time.Duration;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.regex.Pattern;

/** What several resources have in common. */
public final class Shared {
    static final Param<String> NAMESPACE = Param.text("namespace", "Only those of this namespace.", 100, "harbour");
    static final Param<String> TAG = Param.text("tag", "Only those of jobs that carry this tag.", 100, "nightly");
    static final Param<Instant> FROM = Param.instant("from", "Where the period begins, inclusive.");
    static final Param<Instant> UNTIL = Param.instant("until", "Where the period ends, exclusive.");
    static final Param<JobName> JOB = new Param<>(
            "job",
            "Only those of this job: NAMESPACE/NAME, or NAME of main.",
            Map.of("type", "string"),
            "harbour/tide-tables",
            JobName::parse);

    /** What an example's job is called. */
    static final String[] EXAMPLE_JOB = {"namespace", "harbour", "job", "tide-tables"};

    private static final Duration LONGEST_PERIOD = Duration.ofDays(400);
    private static final Pattern SECRET =
            Pattern.compile("(?i).*(secret|token|passw|pwd|key|credential|authorization|cookie).*");

    private Shared() {}

    /**
     * A period of the past.
     *
     * @param from inclusive
     * @param until exclusive
     */
    record Period(Instant from, Instant until) {
        /** {@return the period that is asked for, of a length unless it says where it begins, until now unless it says where it ends} */
        static Period of(Call call, Duration unlessGiven) {
            Instant until = call.get(UNTIL).orElseGet(() -> call.history().now());
            Instant from = call.get(FROM).orElse(until.minus(unlessGiven));
            if (!from.isBefore(until)) {
                throw Problem.ofParameter(UNTIL.name(), until + " is not after from, which is " + from);
            }
            if (Duration.between(from, until).compareTo(LONGEST_PERIOD) > 0) {
                throw Problem.ofParameter(
                        FROM.name(),
                        "the period is longer than " + LONGEST_PERIOD.toDays() + " days; ask for it in parts");
            }
            return new Period(from, until);
        }
    }

    /** {@return a job of the caller's, or what is said where there is none} */
    static JobView visible(Call call, JobName name) {
        Optional<JobView> found = call.caller().may(Role.VIEWER, name.namespace())
                ? call.history().job(name)
                : Optional.empty();
        return found.orElseThrow(() -> new Problem(Problem.Kind.NOT_THERE, "there is no job '" + name + "'"));
    }

    /** {@return a run of the caller's, or what is said where there is none} */
    static RunView run(Call call) {
        long id = call.number("run");
        RunView run = call.history().run(id).orElseThrow(() -> notThere(call, id));
        call.mustBeAllowed(run.job().namespace(), "run " + id);
        return run;
    }

    private static Problem notThere(Call call, long id) {
        Optional<OneOffView> waiting = call.history()
                .oneOff(id)
                .filter(oneOff -> call.caller().may(Role.VIEWER, oneOff.job().namespace()));
        return new Problem(
                        Problem.Kind.NOT_THERE,
                        "there is no run " + id + (waiting.isPresent() ? " yet: it is a one-off that waits" : ""))
                .about("oneOff", waiting.map(view -> oneOff(call, view)));
    }

    /** {@return what a run is to be given; JSON may be sent as itself, and is kept as its text} */
    static Optional<String> payload(Fields body) {
        return body.raw("payload").map(value -> value instanceof String text ? text : JsonText.line(value));
    }

    /** Refuses a payload that no attempt could read, where this instance knows what the job's handler reads. */
    static void checkReadable(Call call, Optional<String> payload) {
        payload.flatMap(text -> call.brume().whyUnreadable(call.job().job(), text))
                .ifPresent(why -> {
                    throw Problem.invalid(List.of(FieldError.ofMember("/payload", "the payload " + why)));
                });
    }

    /** {@return a job as the caller may see it: values that are likely to be secret are for those who define} */
    static Map<String, Object> job(Call call, JobView view) {
        return Views.job(view, definition(call, view.job()));
    }

    /** {@return a one-off as the caller may see it: until its run is made, its payload is on record as it was given} */
    static Map<String, Object> oneOff(Call call, OneOffView view) {
        Map<String, Object> map = Views.oneOff(view);
        if (!call.caller().may(Role.AUTHOR, view.job().namespace())) {
            Mask mask = call.history()
                    .job(view.job())
                    .map(found -> Mask.of(found.job()))
                    .orElse(Mask.of(List.of()));
            map.computeIfPresent("payload", (name, payload) -> mask.apply(String.valueOf(payload)));
        }
        return map;
    }

    /** {@return a definition as the caller may see it} */
    public static Map<String, Object> definition(Call call, Job job) {
        if (call.caller().may(Role.AUTHOR, job.name().namespace())) {
            return JobDocument.write(job);
        }
        Map<String, Object> shown = JobDocument.shown(job);
        shown.computeIfPresent("work", (name, work) -> masked(work));
        return shown;
    }

    /** Values whose names say that they are secret, at any depth. */
    private static Object masked(Object value) {
        if (!(value instanceof Map<?, ?> map)) {
            return value;
        }
        Map<String, Object> shown = new LinkedHashMap<>();
        map.forEach((name, inner) -> shown.put(
                String.valueOf(name),
                inner instanceof String && SECRET.matcher(String.valueOf(name)).matches()
                        ? Mask.STANDS_FOR
                        : masked(inner)));
        return shown;
    }

    /** {@return the instant that a member of a body says, if it is there} */
    static Optional<Instant> instant(Fields body, String member) {
        return body.text(member).flatMap(text -> body.read(member, () -> Param.instant(text)));
    }

    /** {@return the number that a member of a body says, if it is there; both bounds are inclusive} */
    static Optional<Integer> bounded(Fields body, String member, int least, int most) {
        Optional<Integer> number = body.integer(member);
        number.filter(given -> given < least || given > most)
                .ifPresent(given -> body.note(member, given + " is outside " + least + " to " + most));
        return number;
    }

    /** {@return the job that a member of a body names, if it is there} */
    static Optional<JobName> jobName(Fields body, String member) {
        return body.text(member).flatMap(text -> body.read(member, () -> JobName.parse(text)));
    }
}
