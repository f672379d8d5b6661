package dev.brume.cli;

import dev.brume.cli.desk.Seen;
import dev.brume.history.Content;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.Callable;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.ArgGroup;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** Erases what runs were given, returned and said. */
@Command(
        name = "erase",
        mixinStandardHelpOptions = true,
        description =
                "Erases what a run was given, returned and said: payload, result, errors and output."
                        + " Its line stays in the ledger, with digests, so that seals hold; --because is required, and what is erased cannot be had again."
                        + " The database's own files and copies may hold it for a while longer. Needs a database user who may remove from the ledger.",
        footerHeading = "%nExamples:%n",
        footer = {
            "  brume erase 17 --because 'customer 4711 asked for it on 2026-11-20'",
            "  brume erase --job dues-reminder --key customer-4711 --because 'customer 4711 asked for it'"
        })
final class EraseCommand implements Callable<Integer> {
    /** Runs by number, or a one-off by its key. */
    static final class What {
        @Parameters(
                paramLabel = "RUN",
                arity = "1..*",
                description = "The ids of runs that have ended, as brume runs lists them.")
        private @Nullable List<Long> runs;

        @ArgGroup(exclusive = false)
        private @Nullable OneOff oneOff;
    }

    /** A one-off. */
    static final class OneOff {
        @Option(names = "--job", required = true, paramLabel = "JOB", description = "The job of a one-off.")
        private String job = "";

        @Option(
                names = "--key",
                required = true,
                paramLabel = "KEY",
                description = "The one-off's key: the run that was made of it is meant, and what was rerun of that.")
        private String key = "";
    }

    @ArgGroup(multiplicity = "1")
    private What what = new What();

    @Mixin
    private OrderOptions options;

    @Mixin
    private OrderReport report;

    @Override
    public Integer call() {
        options.checkReason("what is erased cannot be had again");
        List<Seen> all = options.order(desk -> {
            OneOff oneOff = what.oneOff;
            return oneOff != null
                    ? desk.erase(OrderOptions.key(oneOff.job), oneOff.key)
                    : desk.erase(
                            Stream.ofNullable(what.runs).flatMap(List::stream).toList());
        });
        List<String> sentences =
                new ArrayList<>(all.stream().map(EraseCommand::sentence).toList());
        List<String> done = all.stream().map(erased -> erased.text("run")).toList();
        String reruns = all.stream()
                .flatMap(erased -> erased.texts("reruns").stream())
                .filter(run -> !done.contains(run))
                .distinct()
                .collect(Collectors.joining(" "));
        if (!reruns.isEmpty()) {
            sentences.add("reruns of the same occurrence have content of their own: brume erase " + reruns);
        }
        return report.done(
                String.join(System.lineSeparator(), sentences),
                "runs",
                all.stream().map(Seen::whole).toList());
    }

    private static String sentence(Seen erased) {
        String run = "run " + erased.text("run") + " of " + erased.text("job") + ": ";
        if (!erased.text("erased").equals(Content.NONE.words())) {
            return run + "erased " + erased.text("erased");
        }
        return run
                + erased.maybeInstant("erasedBefore")
                        .map(at -> "erased before, at " + at + " by " + erased.text("erasedBy") + ": "
                                + erased.text("erasedThen"))
                        .orElse("nothing to erase, it has neither payload nor result, error or output");
    }
}
