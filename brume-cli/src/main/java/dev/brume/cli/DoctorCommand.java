package dev.brume.cli;

import dev.brume.definitions.InsightViews;
import dev.brume.definitions.JsonText;
import dev.brume.insight.doctor.Checkup;
import dev.brume.insight.doctor.Finding;
import java.io.PrintWriter;
import java.time.ZoneId;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.Callable;
import java.util.stream.Collectors;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

/** Looks at everything for what is wrong. */
@Command(
        name = "doctor",
        mixinStandardHelpOptions = true,
        description =
                "Looks at jobs, runs, instances, clocks and the database for what is wrong or will go wrong, and says what to do"
                        + " about each.",
        footerHeading = "%nExit codes:%n",
        footer = {
            "  0  no problem (and under --strict no warning)",
            "  1  a problem (or under --strict a warning)",
            "  3  the database cannot be reached",
            "",
            "Examples:",
            "  brume doctor",
            "  brume doctor --strict --format json"
        })
final class DoctorCommand implements Callable<Integer> {
    private static final String INDENT = "         ";

    @Option(names = "--strict", description = "Exits with 1 for warnings, too.")
    private boolean strict;

    @Mixin
    private WhereOptions options;

    @Mixin
    private LookOptions look;

    @Mixin
    private WatchOptions watch;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() {
        ZoneId zone = look.viewerZone();
        Checkup.Result result = options.ask(at -> at.findings(zone));
        PrintWriter out = spec.commandLine().getOut();
        if (look.json()) {
            out.println(JsonText.pretty(InsightViews.checkup(result)));
        } else {
            print(result, out);
        }
        boolean bad = result.has(strict ? Finding.Severity.WARNING : Finding.Severity.PROBLEM);
        return bad ? ExitCode.NOT_FOUND : ExitCode.OK;
    }

    private void print(Checkup.Result result, PrintWriter out) {
        Palette palette = look.palette();
        for (Finding finding : result.findings()) {
            String severity = finding.severity().name();
            String about = finding.about().isEmpty() ? "" : finding.about() + ": ";
            String full = finding.text().matches(".*[.?!]$") ? "" : ".";
            List<String> text = Wrap.lines(
                    finding.topic() + ": " + about + finding.text() + full, look.width() - INDENT.length(), 0);
            out.println(palette.word(severity)
                    + " ".repeat(INDENT.length() - severity.length())
                    + text.get(0).replaceFirst("^[^:]*:", palette.bold(finding.topic() + ":")));
            text.stream().skip(1).forEach(line -> out.println(INDENT + line));
            if (!finding.advice().isEmpty()) {
                Wrap.lines("-> " + finding.advice(), look.width() - INDENT.length(), 3)
                        .forEach(line -> out.println(INDENT + line));
            }
        }
        if (!result.findings().isEmpty()) {
            out.println();
        }
        out.println(palette.faint(result.product() + "; " + count(result.jobs(), "job") + ", "
                + count(result.alive(), "live instance") + "; " + summary(result)));
    }

    private static String summary(Checkup.Result result) {
        Map<Finding.Severity, Long> counts = new TreeMap<>(
                result.findings().stream().collect(Collectors.groupingBy(Finding::severity, Collectors.counting())));
        return counts.isEmpty()
                ? "nothing is wrong"
                : counts.entrySet().stream()
                        .map(entry ->
                                count(entry.getValue(), entry.getKey().name().toLowerCase(Locale.ROOT)))
                        .collect(Collectors.joining(", "));
    }

    private static String count(long amount, String noun) {
        return amount + " " + noun + (amount == 1 ? "" : "s");
    }
}
