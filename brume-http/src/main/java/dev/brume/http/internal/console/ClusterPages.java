package dev.brume.http.internal.console;

import dev.brume.GateKey;
import dev.brume.Role;
import dev.brume.SharedName;
import dev.brume.history.ChangeFilter;
import dev.brume.history.ChangeView;
import dev.brume.history.History;
import dev.brume.history.SessionRow;
import dev.brume.history.Vitals;
import dev.brume.http.internal.console.Table.Cell;
import dev.brume.http.internal.console.Table.Line;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Param;
import dev.brume.http.internal.web.Problem;
import dev.brume.http.internal.web.Reply;
import dev.brume.insight.doctor.Finding;
import dev.brume.insight.tally.DeadlineTally;
import dev.brume.insight.tally.JobTally;
import dev.brume.insight.tally.PeriodTally;
import dev.brume.insight.tally.Verdict;
import java.lang.management.ManagementFactory;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.Executor;
import java.util.function.LongSupplier;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Pages about the cluster: instances, changes, the tally, the doctor, limits and leases, tokens. */
final class ClusterPages {
    private static final int PAGE = 50;
    private static final int LISTED = 500;
    private static final Pattern LANE = Pattern.compile(".*=(\\d{1,9})");
    private static final Duration A_DAY = Duration.ofDays(1);
    private static final Duration LONGEST = Duration.ofDays(400);
    private static final Param<String> JOB =
            Param.text("job", "About this job: NAMESPACE/NAME.", 201, "harbour/tide-tables");
    private static final Param<String> WHO = Param.text("who", "By them.", 200, "mara");
    private static final Param<String> KIND = Param.text("kind", "Of this kind.", 40, "PAUSED");
    private static final Param<Integer> BEFORE =
            Param.number("before", "Behind this line of the list.", 1, Integer.MAX_VALUE, 100);
    private static final Param<Instant> FROM = Param.instant("from", "Where the period begins, inclusive.");
    private static final Param<Instant> UNTIL = Param.instant("until", "Where it ends, exclusive.");

    private static final long FRESH_NANOS = 10_000_000_000L;

    private final Doctor doctor;
    private final boolean signsOut;
    private final Shelf<Period, PeriodTally> tallies;

    private record Period(Optional<Instant> from, Optional<Instant> until, Optional<Instant> asOf) {}

    ClusterPages(Doctor doctor, boolean signsOut, LongSupplier nanos, Executor behind) {
        this.doctor = doctor;
        this.signsOut = signsOut;
        this.tallies = new Shelf<>(nanos, any -> FRESH_NANOS, behind);
    }

    List<Operation> operations() {
        return List.of(
                Operation.get("/instances", "instancesPage", "The instances.")
                        .everywhere()
                        .takes(Frame.ZONE, Call.AS_OF)
                        .by(this::instances),
                Operation.get("/changes", "changesPage", "Who changed what.")
                        .takes(JOB, WHO, KIND, BEFORE, Frame.ZONE, Call.AS_OF)
                        .by(this::changes),
                Operation.get("/tally", "tallyPage", "What was owed in a period.")
                        .takes(FROM, UNTIL, Frame.ZONE, Call.AS_OF)
                        .by(this::tally),
                Operation.get("/doctor", "doctorPage", "What is wrong, and what to do about it.")
                        .everywhere()
                        .takes(Frame.ZONE, Call.AS_OF)
                        .by(this::doctor),
                Operation.get("/limits", "limitsPage", "Limits and leases.")
                        .takes(Frame.ZONE, Call.AS_OF)
                        .by(this::limits),
                Operation.get("/tokens", "tokensPage", "The tokens.")
                        .needs(Role.ADMIN)
                        .everywhere()
                        .takes(Frame.ZONE, Call.AS_OF)
                        .by(this::tokens));
    }

    private Reply instances(Call call) {
        Frame frame = Frame.of(call, "instances", "Instances", signsOut);
        ListPage page = new ListPage(frame);
        List<Line> lines = new ArrayList<>();
        for (var view : call.history().sessions(/* ended= */ false)) {
            SessionRow row = view.row();
            lines.add(Line.of(
                    row.state() != SessionRow.State.OPEN,
                    Cell.of(row.instance()),
                    Cell.of(Fates.word(row.state().name())),
                    Cell.number(view.runs() + " of " + workers(row)),
                    Cell.number(row.vitals()
                            .map(vitals -> vitals.heapMegabytes() + " of " + vitals.heapLimitMegabytes() + " MB")
                            .orElse("")),
                    Cell.number(row.vitals().map(ClusterPages::load).orElse("")),
                    Cell.of(String.join(", ", row.lanes())),
                    Cell.of(String.join(", ", row.labels())),
                    Cell.clock(frame, row.leaseUntil()),
                    Cell.time(frame.time(row.openedAt())),
                    Cell.of(row.host() + ", process " + row.pid()),
                    Cell.of(row.software()),
                    Cell.number(row.ahead().toMillis() + " ms")));
        }
        page.table(Table.of(
                "Those that live",
                lines,
                "none, and nothing runs until one is started.",
                "Instance",
                "Stands",
                "Workers busy",
                "Heap",
                "Load, processors",
                "Lanes",
                "Labels",
                "Lease ends",
                "Since",
                "Where",
                "Version",
                "Clock ahead by"));
        if (frame.asOf().isEmpty()) {
            page.table(here());
        }
        if (frame.mayEverywhere(Role.ADMIN)) {
            call.history().sessions(false).stream()
                    .map(view -> view.row().instance())
                    .distinct()
                    .forEach(name -> page.order(Order.post(
                                    "Drain " + name,
                                    name + " leases nothing more, lets its runs end, and leaves.",
                                    "/instances/" + Frame.encoded(name) + "/drain")
                            .by("PUT")));
        }
        return page.reply();
    }

    /** A later version may write lanes otherwise: these are left out. */
    private static long workers(SessionRow row) {
        return row.lanes().stream()
                .map(LANE::matcher)
                .filter(Matcher::matches)
                .mapToLong(lane -> Long.parseLong(lane.group(1)))
                .sum();
    }

    private static String load(Vitals vitals) {
        return (vitals.load() < 0 ? "unknown" : String.format(Locale.ROOT, "%.2f", vitals.load())) + ", "
                + vitals.processors();
    }

    /** What only the process itself knows of it. */
    private static Table here() {
        Runtime runtime = Runtime.getRuntime();
        double load = ManagementFactory.getOperatingSystemMXBean().getSystemLoadAverage();
        Line line = Line.of(
                Cell.of("process " + ProcessHandle.current().pid()),
                Cell.number((runtime.totalMemory() - runtime.freeMemory() >> 20) + " of " + (runtime.maxMemory() >> 20)
                        + " MB"),
                Cell.number(load < 0 ? "not known" : String.format(Locale.ROOT, "%.2f", load)),
                Cell.number(runtime.availableProcessors()),
                Cell.number(ManagementFactory.getThreadMXBean().getThreadCount()));
        return Table.of(
                "The one that shows this page",
                List.of(line),
                "",
                "Instance",
                "Heap",
                "Load of its machine",
                "Processors",
                "Threads");
    }

    private Reply changes(Call call) {
        Frame frame = Frame.of(call, "changes", "Changes", signsOut);
        ChangeFilter filter = ChangeFilter.newest(PAGE + 1).within(call.namespaces(Set.of()));
        filter = call.get(JOB).map(Pick::job).map(filter::of).orElse(filter);
        filter = call.get(WHO).map(filter::by).orElse(filter);
        filter = call.get(KIND).map(filter::withKind).orElse(filter);
        filter = call.get(BEFORE).map(Long::valueOf).map(filter::before).orElse(filter);
        filter = frame.asOf().map(filter::until).orElse(filter);
        List<ChangeView> changes = call.history().changes(filter);
        List<ChangeView> shown = changes.subList(0, Math.min(PAGE, changes.size()));
        List<Line> lines = shown.stream()
                .map(view -> Line.of(
                        Cell.time(frame.time(view.at())),
                        Cell.of(Fates.word(view.change().kind())),
                        view.change()
                                .job()
                                .map(job -> Cell.link(job.toString(), frame.job(job)))
                                .orElse(Cell.of("")),
                        Cell.of(versions(view)),
                        Cell.of(view.change().text()),
                        Cell.time(view.change().who()),
                        Cell.of(view.change().host()),
                        Cell.of(view.change().because())))
                .toList();
        ListPage page = new ListPage(frame)
                .field("job", "job", call.get(JOB).orElse(""))
                .field("who", "by", call.get(WHO).orElse(""))
                .field("kind", "kind", call.get(KIND).orElse(""))
                .table(Table.of(
                        "Newest first",
                        lines,
                        "there is none like that.",
                        "When",
                        "What",
                        "Job",
                        "Version",
                        "In detail",
                        "Who",
                        "From",
                        "Because"));
        if (changes.size() > PAGE) {
            page.link(
                    "Older ones",
                    frame.href("/changes?" + Pick.query(call, "job", "who", "kind") + "before="
                            + shown.get(PAGE - 1).id()));
        }
        return page.reply();
    }

    private static String versions(ChangeView view) {
        return view.change().versionBefore().map(before -> before + " to ").orElse("")
                + view.change().versionAfter().map(String::valueOf).orElse("");
    }

    private Reply tally(Call call) {
        Frame frame = Frame.of(call, "tally", "Tally", signsOut);
        History history = call.history();
        PeriodTally all = tallies.get(new Period(call.get(FROM), call.get(UNTIL), frame.asOf()), () -> {
            Instant now = history.now();
            Instant until = call.get(UNTIL).filter(end -> end.isBefore(now)).orElse(now);
            Instant from = call.get(FROM).filter(begin -> begin.isBefore(until)).orElse(until.minus(A_DAY));
            if (Duration.between(from, until).compareTo(LONGEST) > 0) {
                throw Problem.ofParameter(
                        "from", "the period is longer than " + LONGEST.toDays() + " days; ask for it in parts");
            }
            return PeriodTally.of(history, Optional.empty(), from, until, /* lineByLine= */ false);
        });
        Instant from = all.from();
        Instant until = all.until();
        PeriodTally seen =
                all.only(job -> call.caller().may(Role.VIEWER, job.job().namespace()));
        List<JobTally> listed = seen.jobs().stream()
                .sorted(Comparator.comparing((JobTally job) -> isTrouble(job, seen.deadlines(job)))
                        .reversed())
                .limit(LISTED)
                .toList();
        List<Line> lines = listed.stream()
                .map(job -> line(frame, job, seen.deadlines(job)))
                .toList();
        ListPage page = new ListPage(frame).text(seen.sentence());
        if (lines.size() < seen.jobs().size()) {
            page.text(
                    "Of " + Sentence.number(seen.jobs().size()) + " jobs the first " + LISTED
                            + " are listed, those in which something needs a person before the others; the printable report has all.");
        }
        return page.field("from", "from", seconds(from))
                .field("until", "until", seconds(until))
                .table(Table.of(
                        "Job by job",
                        lines,
                        "no job owed anything.",
                        "Job",
                        "Owed",
                        "On time",
                        "Late",
                        "Skipped",
                        "Missed",
                        "Paused",
                        "Open",
                        "Unexplained",
                        "Failed",
                        "Deadlines missed"))
                .link("The printable report", frame.base() + "/api/v1/tally/report?from=" + from + "&until=" + until)
                .reply();
    }

    private static String seconds(Instant at) {
        return at.truncatedTo(ChronoUnit.SECONDS).toString();
    }

    private static boolean isTrouble(JobTally job, Optional<DeadlineTally> deadlines) {
        return !job.isClean()
                || job.failed() > 0
                || job.count(Verdict.MISSED) > 0
                || deadlines.filter(kept -> kept.missed() > 0).isPresent();
    }

    private static Line line(Frame frame, JobTally job, Optional<DeadlineTally> deadlines) {
        return Line.of(
                isTrouble(job, deadlines),
                Cell.link(job.job().toString(), frame.job(job.job())),
                Cell.some(job.expected()),
                Cell.some(job.count(Verdict.ON_TIME)),
                Cell.some(job.count(Verdict.LATE)),
                Cell.some(job.count(Verdict.SKIPPED)),
                Cell.some(job.count(Verdict.MISSED)),
                Cell.some(job.count(Verdict.PAUSED)),
                Cell.some(job.open()),
                Cell.some(job.count(Verdict.UNEXPLAINED)),
                Cell.some(job.failed()),
                Cell.number(deadlines
                        .map(kept -> kept.missed() + " of " + kept.due())
                        .orElse("")));
    }

    private Reply doctor(Call call) {
        Frame frame = Frame.of(call, "doctor", "Doctor", signsOut);
        List<Line> lines = doctor.findings(call.brume()).stream()
                .map(finding -> Line.of(
                        finding.severity() == Finding.Severity.PROBLEM,
                        Cell.of(Fates.word(finding.severity().name())),
                        Cell.of(finding.about()),
                        Cell.of(finding.text()),
                        Cell.of(finding.advice())))
                .toList();
        return new ListPage(frame)
                .table(Table.of("Findings", lines, "nothing is wrong.", "How bad", "About", "What it is", "What to do"))
                .reply();
    }

    private Reply limits(Call call) {
        Frame frame = Frame.of(call, "limits", "Limits and leases", signsOut);
        List<Line> gates = call.history().gates().stream()
                .filter(gate ->
                        gate.key().kind() == GateKey.Kind.LIMIT || call.caller().mayEverywhere(Role.VIEWER))
                .filter(gate -> SharedName.isOfCluster(gate.key().name())
                        || call.caller()
                                .may(
                                        Role.VIEWER,
                                        SharedName.namespaceOf(gate.key().name())))
                .map(gate -> Line.of(
                        Cell.code(gate.key().name()),
                        Cell.of(Fates.word(gate.key().kind().name())),
                        Cell.number(gate.used() + " of " + gate.cap()),
                        Cell.of(gate.rate().map(Object::toString).orElse("")),
                        Cell.time(gate.opensAt().map(frame::time).orElse(""))))
                .toList();
        ListPage page = new ListPage(frame)
                .table(Table.of(
                        "Limits that jobs share, and keys that exclude",
                        gates,
                        "there is none.",
                        "Name",
                        "Kind",
                        "Places taken",
                        "Rate",
                        "Opens"));
        if (call.caller().mayEverywhere(Role.VIEWER)) {
            List<Line> leases = call.history().leases().stream()
                    .map(lease -> Line.of(
                            Cell.code(lease.name()),
                            Cell.of(Fates.word(lease.state(frame.now()).name())),
                            Cell.of(lease.holder()),
                            Cell.number(lease.fence()),
                            Cell.time(frame.time(lease.takenAt())),
                            Cell.clock(frame, lease.until())))
                    .toList();
            page.table(Table.of(
                    "Leases by name",
                    leases,
                    "code with a timer of its own holds none.",
                    "Name",
                    "Stands",
                    "Holder",
                    "Fence",
                    "Taken",
                    "Ends"));
        }
        return page.reply();
    }

    private Reply tokens(Call call) {
        Frame frame = Frame.of(call, "tokens", "Tokens", signsOut);
        List<Line> lines = call.history().tokens().stream()
                .map(token -> Line.of(
                        Cell.of(token.name()),
                        Cell.of(token.grant()),
                        Cell.of(
                                token.isGood(frame.now())
                                        ? "lets in"
                                        : token.revokedAt().isPresent() ? "revoked" : "has ended"),
                        Cell.time(frame.time(token.addedAt())),
                        Cell.of(token.addedBy()),
                        Cell.time(frame.time(token.until()))))
                .toList();
        ListPage page = new ListPage(frame)
                .text("A token is shown once, to whoever makes it: brume token add NAME --role operator.")
                .table(Table.of("Tokens", lines, "there is none.", "Name", "May", "Stands", "Made", "By", "Until"));
        if (frame.mayEverywhere(Role.ADMIN)) {
            call.history().tokens().stream()
                    .filter(token -> token.isGood(frame.now()))
                    .forEach(token -> page.order(Order.post(
                                    "Revoke " + token.name(),
                                    "Whoever holds " + token.name()
                                            + " is let in no more, within a second on every instance.",
                                    "/tokens/" + Frame.encoded(token.name()))
                            .by("DELETE")));
        }
        return page.reply();
    }
}
