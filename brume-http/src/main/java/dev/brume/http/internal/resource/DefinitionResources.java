package dev.brume.http.internal.resource;

import dev.brume.Allowance;
import dev.brume.Defined;
import dev.brume.DefinitionSet;
import dev.brume.DefinitionsSeen;
import dev.brume.EditConflictException;
import dev.brume.FollowUp;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.NotThereException;
import dev.brume.Orders;
import dev.brume.Role;
import dev.brume.definitions.DefinitionFile;
import dev.brume.definitions.InsightViews;
import dev.brume.definitions.Views;
import dev.brume.history.JobView;
import dev.brume.history.NamespaceView;
import dev.brume.http.internal.draft.Followed;
import dev.brume.http.internal.web.Answer;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.FieldError;
import dev.brume.http.internal.web.Member;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Param;
import dev.brume.http.internal.web.Problem;
import dev.brume.http.internal.web.Problem.Kind;
import dev.brume.http.internal.web.Reply;
import dev.brume.insight.diff.DefinitionDiff;
import dev.brume.insight.diff.JobDiff;
import dev.brume.internal.document.Fields;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** Definitions: read by versions, and put in force, one or many, by whoever saw what is in force. */
final class DefinitionResources {
    /** Where jobs come from that are defined one by one over HTTP. */
    static final String SOURCE = "http";

    private static final Duration AHEAD = Duration.ofDays(7);
    private static final Param<Boolean> DRY_RUN = Param.flag("dryRun", "Whether it is only told what would change.");
    private static final Param<Boolean> TAKE_OVER =
            Param.flag("takeOver", "Whether jobs may be defined that something else defines so far.");
    private static final Param<Boolean> DROP_GONE = Param.flag(
            "dropGone", "Whether jobs are dropped that this document defined before and does not have any more.");
    private static final Param<String> BECAUSE =
            Param.text("because", "Why, for the change log.", 500, "more attempts for the dues");
    private static final String NONE = "none";
    private static final Param<String> AFTER = Param.text(
            "after",
            "The job of the same namespace whose follow-up it becomes, with that one changed along; none for no job; as it is unless given.",
            201,
            "tide-tables");
    private static final Param<FollowUp.On> ON =
            Param.word("on", "After which of its ends; success unless given.", FollowUp.On.values());
    private static final Map<String, Object> EXAMPLE = Map.of(
            "when", List.of(Map.of("cron", "15 4 * * *", "zone", "Atlantic/Azores")),
            "work", Map.of("handler", "buoy-check"));

    private final NameRules rules;

    private DefinitionResources(NameRules rules) {
        this.rules = rules;
    }

    static List<Operation> operations(NameRules rules) {
        DefinitionResources own = new DefinitionResources(rules);
        return List.of(
                Operation.get(
                                "/jobs/{namespace}/{job}/definition",
                                "readDefinition",
                                "Reads a job's definition, as a document that defines it again.")
                        .says("Its ETag is what If-Match of a later change has to say.")
                        .at(Shared.EXAMPLE_JOB)
                        .answers(Answer.object("The definition."))
                        .by(DefinitionResources::read),
                Operation.of(
                                "PUT",
                                "/jobs/{namespace}/{job}/definition",
                                "defineJob",
                                "Defines a job, anew or for the first time.")
                        .says(
                                "A job that is there takes If-Match with the ETag of the definition that was seen, so that nobody's"
                                        + " change is lost. A definition may name handlers; programs, hosts, variables and files only as"
                                        + " the server's lists for the namespace hold them.")
                        .needs(Role.AUTHOR)
                        .at("namespace", "harbour", "job", "buoy-check")
                        .takes(TAKE_OVER, BECAUSE, AFTER, ON)
                        .sendsDocument(EXAMPLE)
                        .answers(defined())
                        .by(own::define),
                Operation.of(
                                "POST",
                                "/jobs/{namespace}/{job}/reversions",
                                "revertJob",
                                "Puts a job's definition in force again as it was: a new version that equals an old one.")
                        .says(
                                "What defines the job so far goes on to do so. With If-Match only if it is what was seen.")
                        .needs(Role.AUTHOR)
                        .at(Shared.EXAMPLE_JOB)
                        .sends(
                                Map.of("version", 1, "because", "the new times were wrong"),
                                Member.number("version", "The version that it is to equal.")
                                        .needed(),
                                Member.BECAUSE)
                        .answers(defined())
                        .by(own::revert),
                Operation.get(
                                "/jobs/{namespace}/{job}/versions/{version}",
                                "readVersion",
                                "Reads a version of a job's definition, in force or not.")
                        .at("namespace", "harbour", "job", "tide-tables", "version", "1")
                        .answers(Answer.object("The definition."))
                        .by(DefinitionResources::version),
                Operation.of(
                                "PUT",
                                "/definitions",
                                "defineAll",
                                "Puts a document of definitions in force: jobs, calendars and limits.")
                        .says(
                                "Nothing is changed if anything of it was changed by someone else between the comparison and the change. With dryRun"
                                        + " it only says what would change, and its ETag is what If-Match may say of what was seen."
                                        + " The document's source: says whose jobs they are; http unless given.")
                        .needs(Role.AUTHOR)
                        .takes(DRY_RUN, TAKE_OVER, DROP_GONE, BECAUSE)
                        .sendsDocument(Map.of("namespace", "harbour", "jobs", Map.of("buoy-check", EXAMPLE)))
                        .answers(Answer.of("What changed, or would.", "diff"))
                        .by(own::defineAll));
    }

    private static Answer defined() {
        return Answer.object(
                "What became of it.",
                "job",
                Map.of("type", "string"),
                "kind",
                Map.of("type", "string", "enum", List.of("NEW", "CHANGED", "UNCHANGED")),
                "version",
                Map.of("type", "integer"));
    }

    private static Reply read(Call call) {
        JobView view = call.job();
        return Reply.json(Shared.definition(call, view.job())).with("ETag", Tags.of(view));
    }

    private static Reply version(Call call) {
        JobName name = call.job().name();
        long number = call.number("version");
        Job job = call.history()
                .version(name, (int) Math.min(number, Integer.MAX_VALUE))
                .orElseThrow(() -> new Problem(Kind.NOT_THERE, "there is no version " + number + " of '" + name + "'"));
        return Reply.json(Shared.definition(call, job));
    }

    private Reply define(Call call) {
        JobName name = call.jobName();
        Job job = DefinitionFile.parseJob(name.toString(), name, call.document());
        Optional<JobView> there = call.history().job(name);
        Optional<DefinitionsSeen> seen = Tags.seen(call, name);
        there.ifPresent(view -> checkMay(call, view, seen.isPresent()));
        List<Job> all = new ArrayList<>(List.of(job));
        followed(call).ifPresent(other -> all.addAll(other.changes(call.history(), name)));
        return put(call, all, seen, call.get(TAKE_OVER).orElse(false), orders(call));
    }

    /** Another job of the namespace names what follows it, so that it is defined along. */
    private static Optional<Followed> followed(Call call) {
        FollowUp.On on = call.get(ON).orElse(FollowUp.On.SUCCESS);
        return call.get(AFTER)
                .map(text -> new Followed(text.equals(NONE) ? Optional.empty() : Optional.of(jobName(call, text)), on));
    }

    private static JobName jobName(Call call, String text) {
        try {
            return text.contains("/")
                    ? JobName.parse(text)
                    : new JobName(call.jobName().namespace(), text);
        } catch (IllegalArgumentException e) {
            throw Problem.ofParameter(AFTER.name(), String.valueOf(e.getMessage()));
        }
    }

    private Reply revert(Call call) {
        Fields body = call.body();
        Optional<Integer> number = Shared.bounded(body, "version", 1, Integer.MAX_VALUE);
        call.check();
        JobView there = call.job();
        JobName name = there.name();
        Job earlier = call.history()
                .version(name, number.orElseThrow())
                .orElseThrow(() -> NotThereException.ofVersion(name, number.get()));
        refuse(rules.refusals(call.history(), earlier, ""));
        refuse(beyond(call, DefinitionSet.of(SOURCE, List.of(earlier)).within(name.namespace())));
        boolean outdated = Tags.seen(call, name)
                .filter(seen -> !seen.jobs().get(name).equals(there.row().version()))
                .isPresent();
        if (outdated) {
            throw new Problem(
                    Kind.CHANGED_MEANWHILE, "'" + name + "' was changed by somebody else; nothing was changed");
        }
        return said(call, name, call.plainOrders().revert(name, number.get()));
    }

    /**
     * Puts a job in force, with those that change along, if they are what was seen.
     *
     * @param jobs the one that it is about first
     */
    private Reply put(Call call, List<Job> jobs, Optional<DefinitionsSeen> seen, boolean takeOver, Orders orders) {
        JobName name = jobs.get(0).name();
        List<FieldError> refused = new ArrayList<>();
        Map<JobName, Integer> versions = new HashMap<>();
        for (Job job : jobs) {
            refused.addAll(rules.refusals(call.history(), job, ""));
            call.history().job(job.name()).ifPresent(view -> {
                versions.put(job.name(), view.row().version());
                if (!job.name().equals(name)) {
                    checkSource(view, takeOver, "takeOver=true");
                }
            });
        }
        refuse(refused);
        seen.ifPresent(known -> versions.putAll(known.jobs()));
        DefinitionSet set = DefinitionSet.of(SOURCE, jobs).within(name.namespace());
        refuse(beyond(call, set));
        Defined defined = orders.define(set, new DefinitionsSeen(versions, Map.of(), Map.of())).stream()
                .filter(each -> each.name().equals(name))
                .findFirst()
                .orElseThrow();
        return said(call, name, defined);
    }

    private static Reply said(Call call, JobName name, Defined defined) {
        if (defined.kind() == Defined.Kind.OUTDATED) {
            throw new Problem(
                    Kind.CONFLICT,
                    "a file with a revision, or a newer version of Brume, has put another definition of '" + name
                            + "' in force, which goes before this one");
        }
        JobView now = call.job();
        return Reply.json(
                        defined.kind() == Defined.Kind.NEW ? 201 : 200,
                        Views.object("job", name, "kind", defined.kind(), "version", defined.version()))
                .with("ETag", Tags.of(now.row().id(), defined.version()));
    }

    private static void checkSource(JobView view, boolean takeOver, String how) {
        if (!view.row().source().equals(SOURCE) && !takeOver) {
            throw new Problem(
                    Kind.CONFLICT,
                    "the job '" + view.name() + "' is defined by " + view.row().source()
                            + ", which would define it again; change it there, or take it over with " + how);
        }
    }

    private static void checkMay(Call call, JobView view, boolean said) {
        if (call.incoming().header("If-None-Match").filter("*"::equals).isPresent()) {
            throw new Problem(Kind.CHANGED_MEANWHILE, "there is a job '" + view.name() + "' already");
        }
        boolean anyVersion =
                call.incoming().header("If-Match").filter("*"::equals).isPresent();
        if (!said && !anyVersion) {
            throw new Problem(
                    Kind.SAY_WHAT_YOU_SAW,
                    "there is a job '" + view.name()
                            + "' already; send If-Match with the ETag of the definition that you saw, or If-Match: * to change"
                            + " it whatever it is");
        }
        checkSource(view, call.get(TAKE_OVER).orElse(false), "takeOver=true");
    }

    /**
     * What is the whole cluster's, and jobs of other namespaces as follow-ups, are for those who define everywhere, or as an allowance of the
     * namespace grants them.
     */
    private static List<FieldError> beyond(Call call, DefinitionSet set) {
        Set<String> bounded = call.history().namespaces().stream()
                .filter(view -> view.allowance().isPresent())
                .map(NamespaceView::name)
                .collect(Collectors.toSet());
        if (call.caller().mayEverywhere(Role.AUTHOR) || bounded.containsAll(set.namespaces())) {
            return List.of();
        }
        Instant now = call.history().now();
        return Stream.concat(
                        Allowance.OWN.refusals(set).stream(),
                        set.jobs().stream().flatMap(job -> Allowance.OWN.refusals(job, now).stream()))
                .map(text -> FieldError.ofMember(
                        "", text + " (it takes the role author everywhere, or an allowance of the namespace)"))
                .toList();
    }

    private static void refuse(List<FieldError> errors) {
        if (!errors.isEmpty()) {
            throw new Problem(
                    Kind.REFUSED,
                    errors.size() == 1 ? errors.get(0).detail() : errors.size() + " names are not allowed; see errors",
                    errors);
        }
    }

    private Reply defineAll(Call call) {
        DefinitionFile file = DefinitionFile.parseAlone("document", SOURCE, call.document());
        DefinitionSet set = file.definitions();
        call.mustBeAllowed(file.namespace(), "namespace '" + file.namespace() + "' that you may look at");
        List<FieldError> errors = new ArrayList<>();
        for (Job job : set.jobs()) {
            errors.addAll(
                    rules.refusals(call.history(), job, "/jobs/" + job.name().name()));
        }
        errors.addAll(rules.refusals(call.history(), file.namespace(), file.telling()));
        errors.addAll(beyond(call, set));
        refuse(errors);
        DefinitionDiff diff =
                DefinitionDiff.of(set, call.history(), call.history().now(), AHEAD);
        String tag = "\"" + diff.mark(set) + "\"";
        Reply reply = Reply.json(InsightViews.difference(set, diff));
        if (call.get(DRY_RUN).orElse(false)) {
            return reply.with("ETag", tag);
        }
        if (call.incoming()
                .header("If-Match")
                .filter(seen -> !seen.equals("*") && !seen.equals(tag))
                .isPresent()) {
            throw new Problem(
                    Kind.CHANGED_MEANWHILE,
                    "other versions of what " + set.source()
                            + " defines are in force than those that you saw; nothing was" + " changed");
        }
        checkOwn(call, set, diff);
        put(call, set, diff);
        return reply;
    }

    private static void checkOwn(Call call, DefinitionSet set, DefinitionDiff diff) {
        if (diff.isOutdated(set)) {
            throw new Problem(
                    Kind.CONFLICT,
                    "revision " + set.revision().orElse(0) + " of " + set.source() + " is older than the one in force, "
                            + diff.revision().orElse(0) + "; state a higher revision:");
        }
        if (!diff.notAllowed().isEmpty()) {
            throw new Problem(
                    Kind.REFUSED,
                    diff.notAllowed().get(0),
                    diff.notAllowed().stream()
                            .map(text -> FieldError.ofMember("", text))
                            .toList());
        }
        TreeSet<String> others = new TreeSet<>();
        diff.jobs().forEach(job -> job.movesFrom().ifPresent(from -> others.add(job.name() + " (by " + from + ")")));
        if (!others.isEmpty() && !call.get(TAKE_OVER).orElse(false)) {
            throw new Problem(
                    Kind.CONFLICT,
                    "something else defines " + String.join(", ", others) + "; take it over with takeOver=true");
        }
    }

    /** The body is a document, so that the reason is in the address. */
    private static Orders orders(Call call) {
        return call.brume()
                .orders(call.caller().name(), call.get(BECAUSE).orElse(""))
                .from(call.incoming().address());
    }

    private static void put(Call call, DefinitionSet set, DefinitionDiff diff) {
        Orders orders = orders(call);
        List<Defined> defined = orders.define(set, diff.seen());
        if (defined.stream().anyMatch(each -> each.kind() == Defined.Kind.OUTDATED)) {
            throw new EditConflictException("a newer revision of " + set.source() + " has come in between");
        }
        if (call.get(DROP_GONE).orElse(false)) {
            diff.of(JobDiff.Kind.GONE).stream()
                    .filter(job -> call.caller().may(Role.AUTHOR, job.name().namespace()))
                    .forEach(job -> orders.drop(job.name(), diff.seen()));
        }
    }
}
