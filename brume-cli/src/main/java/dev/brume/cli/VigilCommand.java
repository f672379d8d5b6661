package dev.brume.cli;

import dev.brume.Brume;
import java.io.PrintWriter;
import java.time.Duration;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

/** Keeps vigil until it is told to stop. */
@Command(
        name = "vigil",
        mixinStandardHelpOptions = true,
        description =
                "Tells what is to be told and runs nothing: so that silence is noticed although no instance lives. Keep as many as"
                        + " you like beside the instances of a database; each thing is told once.",
        footerHeading = "%nExample:%n",
        footer = {
            "  brume vigil --database \"jdbc:postgresql://db/harbour?user=brume\"",
            "",
            "Ctrl-C or TERM ends it; what it was sending is sent again by others, if it did not arrive."
        })
final class VigilCommand implements Callable<Integer> {
    private static final int CONNECTIONS = 4;
    private static final Duration LAST = Duration.ofSeconds(10);

    @Option(
            names = "--name",
            paramLabel = "NAME",
            description = "What it is called on record; host and process id unless given.")
    private @Nullable String name;

    @Option(names = "--no-programs", description = "Leaves channels that are programs to others.")
    private boolean noPrograms;

    @Mixin
    private StoreOptions options;

    @Mixin
    private LookOptions look;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() throws InterruptedException {
        PrintWriter out = spec.commandLine().getOut();
        EventPrinter printer = new EventPrinter(out, look.json(), look.palette(), look.viewerZone());
        try (Stopping stopping = Stopping.fromNow();
                StoreOptions.OpenStore open = options.host(CONNECTIONS, Brume.DRAIN_LIMIT)) {
            Brume brume = build(open, printer);
            brume.keepVigil();
            PrintWriter err = spec.commandLine().getErr();
            err.println("brume: keeps vigil; "
                    + brume.history().tellings().stream()
                            .mapToInt(row -> row.telling().rules().size())
                            .sum() + " rules of notices are in force");
            stopping.await();
            err.println("brume: stopping");
            brume.stop(LAST);
            stopping.isInOrder();
        }
        return ExitCode.OK;
    }

    private Brume build(StoreOptions.OpenStore open, EventPrinter printer) {
        try {
            Brume.Builder builder = Brume.on(open.store()).withoutLog().engineListener(printer);
            WaysOfTelling.by(builder, !noPrograms);
            if (name != null) {
                builder.instance(name);
            }
            return builder.build();
        } catch (IllegalArgumentException e) {
            throw new UsageException(e);
        }
    }
}
