package dev.brume.cli;

import dev.brume.Allowance;
import dev.brume.definitions.JsonText;
import dev.brume.definitions.Views;
import dev.brume.history.AllowanceRow;
import dev.brume.history.NamespaceView;
import java.io.PrintWriter;
import java.time.Duration;
import java.util.EnumSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.Callable;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** Shows and sets what the jobs of namespaces may be and use. */
@Command(
        name = "allowance",
        mixinStandardHelpOptions = true,
        description =
                "Shows what the jobs of namespaces may be and use, or sets it for one whose people define for themselves. A"
                        + " namespace without an allowance may do anything. One that has an allowance may have what is not"
                        + " bounded here, within itself; names of the whole cluster and jobs of other namespaces as follow-ups"
                        + " only as granted. It holds for what is defined and ordered from now on.",
        footerHeading = "%nExamples:%n",
        footer = {
            "  brume allowance",
            "  brume allowance ferry --jobs 200 --interval 5m --work handler --lane bulk --because 'tenant of pier 7'",
            "  brume allowance ferry --own --share /tugs --follow-up harbour/tide-tables",
            "  brume allowance ferry --anything"
        })
final class AllowanceCommand implements Callable<Integer> {
    @Parameters(
            arity = "0..1",
            paramLabel = "NAMESPACE",
            description = "Of which; all that have an allowance if left out.")
    private @Nullable String namespace;

    @Option(names = "--jobs", paramLabel = "N", description = "At most so many jobs.")
    private @Nullable Integer jobs;

    @Option(
            names = "--interval",
            paramLabel = "DURATION",
            description = "Occurrences of a job are at least so far apart, as seen from the next thousand.")
    private @Nullable Duration interval;

    @Option(
            names = "--work",
            split = ",",
            paramLabel = "KIND",
            description = "Only these kinds of work: handler, program, request.")
    private Set<Allowance.Kind> kinds = EnumSet.noneOf(Allowance.Kind.class);

    @Option(names = "--handler", paramLabel = "NAME", description = "Only handlers named so; may be given many times.")
    private List<String> handlers = List.of();

    @Option(names = "--lane", paramLabel = "LANE", description = "Only these lanes; may be given many times.")
    private List<String> lanes = List.of();

    @Option(
            names = "--payload",
            paramLabel = "N",
            description = "Payloads of at most so many characters, 1000 or more.")
    private @Nullable Integer payload;

    @Option(
            names = "--share",
            paramLabel = "/NAME",
            description =
                    "Grants a limit, key or calendar of the whole cluster; /* grants all. May be given many times.")
    private List<String> shared = List.of();

    @Option(
            names = "--follow-up",
            paramLabel = "NAMESPACE/JOB",
            description =
                    "Grants another namespace's job as a follow-up, NAMESPACE/* all of its jobs. May be given many times.")
    private List<String> followUps = List.of();

    @Option(
            names = "--own",
            description = "Everything within the namespace itself, and nothing of others but what is granted.")
    private boolean own;

    @Option(names = "--anything", description = "Takes the allowance away: its jobs may be and use anything.")
    private boolean anything;

    @Mixin
    private OrderOptions options;

    @Mixin
    private LookOptions look;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() {
        boolean bounds = own || jobs != null || interval != null || payload != null;
        boolean isSet =
                bounds || Stream.of(kinds, handlers, lanes, shared, followUps).anyMatch(given -> !given.isEmpty());
        if (isSet && anything) {
            throw new UsageException("--anything does not go together with bounds and grants");
        }
        if ((isSet || anything) && namespace == null) {
            throw new UsageException("say of which namespace: brume allowance NAMESPACE ...");
        }
        if (namespace != null && (isSet || anything)) {
            set(namespace, isSet ? Optional.of(wanted()) : Optional.empty());
        }
        return show();
    }

    private Allowance wanted() {
        try {
            Allowance wanted = Allowance.OWN
                    .kinds(kinds)
                    .handlers(handlers)
                    .lanes(lanes)
                    .sharing(shared)
                    .followedBy(followUps);
            wanted = jobs == null ? wanted : wanted.mostJobs(jobs);
            wanted = interval == null ? wanted : wanted.shortestInterval(interval);
            return payload == null ? wanted : wanted.longestPayload(payload);
        } catch (IllegalArgumentException e) {
            throw new UsageException(e);
        }
    }

    private void set(String whose, Optional<Allowance> allowance) {
        Optional<Allowance> before = options.order(desk -> desk.allow(whose, allowance));
        spec.commandLine()
                .getErr()
                .println("the namespace " + whose + " may have " + words(allowance) + "; before: " + words(before));
    }

    private static String words(Optional<Allowance> allowance) {
        return allowance.map(Allowance::toString).orElse("anything");
    }

    private int show() {
        List<NamespaceView> bounded = options.look(history -> history.namespaces()).stream()
                .filter(view -> view.allowance().isPresent())
                .filter(view -> namespace == null || view.name().equals(namespace))
                .toList();
        PrintWriter out = spec.commandLine().getOut();
        if (look.json()) {
            out.println(JsonText.pretty(bounded.stream().map(Views::namespace).toList()));
            return ExitCode.OK;
        }
        if (bounded.isEmpty()) {
            out.println(
                    namespace == null
                            ? "no namespace has an allowance: jobs of all of them may be and use anything"
                            : "the namespace " + namespace + " has no allowance: its jobs may be and use anything");
            return ExitCode.OK;
        }
        Table table = new Table(look)
                .column("NAMESPACE")
                .column("JOBS")
                .column("MAY HAVE")
                .fold()
                .column("SINCE")
                .column("BY");
        for (NamespaceView view : bounded) {
            AllowanceRow row = view.allowance().orElseThrow();
            table.row(
                    view.name(),
                    view.jobs(),
                    row.allowance(),
                    Times.withOffset(row.setAt(), look.viewerZone()),
                    row.setBy());
        }
        table.lines().forEach(out::println);
        return ExitCode.OK;
    }
}
