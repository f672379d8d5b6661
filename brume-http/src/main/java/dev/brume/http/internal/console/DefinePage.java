package dev.brume.http.internal.console;

import dev.brume.Allowance;
import dev.brume.JobName;
import dev.brume.Role;
import dev.brume.history.JobFilter;
import dev.brume.history.JobView;
import dev.brume.history.NamespaceView;
import dev.brume.http.internal.draft.Seen;
import dev.brume.http.internal.draft.Written;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Param;
import dev.brume.http.internal.web.Problem;
import dev.brume.http.internal.web.Reply;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;

/** Where a job is defined: a form and a document, side by side. */
public final class DefinePage {
    private static final int OFFERED = 300;
    private static final String API = "http";
    private static final Param<String> NAMESPACE =
            Param.text("namespace", "In which the job is to be.", 100, "harbour");

    private final boolean signsOut;

    DefinePage(boolean signsOut) {
        this.signsOut = signsOut;
    }

    List<Operation> operations() {
        return List.of(
                Operation.get("/define", "definePage", "A job that is to be.")
                        .needs(Role.AUTHOR)
                        .takes(NAMESPACE, Frame.ZONE)
                        .by(this::fresh),
                Operation.get("/jobs/{namespace}/{job}/define", "changePage", "A job's definition, to be changed.")
                        .needs(Role.AUTHOR)
                        .takes(Frame.ZONE)
                        .by(this::change));
    }

    /**
     * What is defined.
     *
     * @param namespace of the job
     * @param shortName without its namespace; empty if it has none yet
     * @param document as it stands
     * @param seen the version that is shown, as a tag; empty for a new job
     * @param definedElsewhere what else defines it so far; empty if nothing does
     * @param zone that is offered first
     * @param allowance of the namespace, in words
     * @param namespaces in which the caller may define; empty if that is everywhere
     * @param spaces that there are
     * @param calendars that may be named
     * @param others the jobs of the namespace
     * @param handlers that are known in it
     */
    public record Subject(
            String namespace,
            String shortName,
            String document,
            String seen,
            String definedElsewhere,
            String zone,
            String allowance,
            List<String> namespaces,
            List<String> spaces,
            List<String> calendars,
            List<String> others,
            List<String> handlers) {
        /** {@return whether the job is not there yet} */
        public boolean isNew() {
            return seen.isEmpty();
        }

        /** {@return the name for people} */
        public String name() {
            return new JobName(namespace, shortName).toString();
        }

        /** {@return the path of the job} */
        public String path() {
            return Frame.jobPath(new JobName(namespace, shortName));
        }
    }

    private Reply fresh(Call call) {
        Frame frame = Frame.of(call, "jobs", "Define a job", signsOut);
        Set<String> own = call.caller().namespaces(Role.AUTHOR);
        String namespace =
                call.get(NAMESPACE).orElseGet(() -> own.stream().findFirst().orElse(JobName.MAIN));
        if (!JobName.isName(namespace) || !call.caller().may(Role.AUTHOR, namespace)) {
            throw new Problem(
                    Problem.Kind.NOT_ALLOWED,
                    "you may define nothing in namespace '" + Param.shortened(namespace) + "'"
                            + (own.isEmpty() ? "" : "; yours are " + String.join(", ", own)));
        }
        return page(call, frame, namespace, Optional.empty());
    }

    private Reply change(Call call) {
        JobView view = call.job();
        Frame frame = Frame.of(call, "jobs", "Change " + view.name(), signsOut);
        return page(call, frame, view.name().namespace(), Optional.of(view));
    }

    private static Reply page(Call call, Frame frame, String namespace, Optional<JobView> view) {
        Optional<NamespaceView> space = call.history().namespaces().stream()
                .filter(each -> each.name().equals(namespace))
                .findFirst();
        Optional<Allowance> allowance = space.flatMap(NamespaceView::allowance).map(row -> row.allowance());
        List<JobView> jobs = call.history().jobs(JobFilter.first(OFFERED).within(Set.of(namespace)));
        TreeSet<String> handlers =
                new TreeSet<>(allowance.map(Allowance::handlers).orElse(Set.of()));
        if (handlers.isEmpty()) {
            jobs.forEach(job -> job.job().work().neededHandler().ifPresent(handlers::add));
        }
        Subject subject = new Subject(
                namespace,
                view.map(job -> job.name().name()).orElse(""),
                view.map(job -> Written.text(job.job())).orElse(""),
                view.map(job -> Seen.of(job).tag()).orElse(""),
                view.map(job -> job.row().source())
                        .filter(source -> !source.equals(API))
                        .orElse(""),
                zone(frame, jobs),
                allowance
                        .map(bounds -> bounds + "; " + space.get().jobs()
                                + (space.get().jobs() == 1 ? " job is there" : " jobs are there"))
                        .orElse(""),
                List.copyOf(call.caller().namespaces(Role.AUTHOR)),
                call.caller().mayEverywhere(Role.AUTHOR)
                        ? call.history().namespaces().stream()
                                .map(NamespaceView::name)
                                .toList()
                        : List.of(),
                calendars(call, namespace, allowance),
                jobs.stream()
                        .map(JobView::name)
                        .filter(name ->
                                view.filter(job -> job.name().equals(name)).isEmpty())
                        .map(JobName::toString)
                        .toList(),
                List.copyOf(handlers));
        return Html.page("define", Map.of("frame", frame, "subject", subject));
    }

    /** The reader's zone, or the one that the namespace's jobs go by. */
    private static String zone(Frame frame, List<JobView> jobs) {
        String own = frame.zone().getId();
        return !own.equals("UTC")
                ? own
                : jobs.stream()
                        .flatMap(job -> job.job().schedules().stream())
                        .map(schedule -> schedule.zone().getId())
                        .findFirst()
                        .orElse(own);
    }

    /** Those of the namespace, and those of the whole cluster that it may use. */
    private static List<String> calendars(Call call, String namespace, Optional<Allowance> allowance) {
        boolean everywhere = call.caller().mayEverywhere(Role.AUTHOR);
        List<String> names = new ArrayList<>();
        call.history().calendars().forEach(view -> {
            var name = view.row().name();
            boolean shared = allowance
                    .map(bounds ->
                            bounds.shared().contains("/*") || bounds.shared().contains("/" + name.name()))
                    .orElse(everywhere);
            if (name.namespace().equals(namespace) || name.namespace().isEmpty() && shared) {
                names.add(name.reference());
            }
        });
        return names;
    }
}
