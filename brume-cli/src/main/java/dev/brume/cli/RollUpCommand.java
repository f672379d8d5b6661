package dev.brume.cli;

import dev.brume.cli.desk.Seen;
import dev.brume.definitions.JsonText;
import java.io.PrintWriter;
import java.time.Instant;
import java.util.List;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.ParseResult;
import picocli.CommandLine.Spec;

/** Sums up the ledger, and holds the sums against it. */
@Command(
        name = "roll-up",
        mixinStandardHelpOptions = true,
        description =
                "Sums up the ledger by job and hour, as instances do by themselves every ten minutes, so that tally and stats of"
                        + " long periods need not read every line. What is not summed up yet they read in lines.",
        footerHeading = "%nExit codes: 0 all is well, 1 --check has found sums that are wrong.%n%nExamples:%n",
        footer = {"  brume roll-up", "  brume roll-up --check --from 30d", "  brume roll-up --anew"})
final class RollUpCommand implements Callable<Integer> {
    private static final int MOST_SHOWN = 20;

    @Option(names = "--anew", description = "Throw all sums away first, and sum up the whole ledger.")
    private boolean anew;

    @Option(
            names = "--check",
            description =
                    "Sum up nothing; read each line of a period, and say of which hours and days the sums are not those of the lines.")
    private boolean check;

    @Mixin
    private PeriodOptions period;

    @Mixin
    private OrderOptions options;

    @Mixin
    private LookOptions look;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() {
        ParseResult given = spec.commandLine().getParseResult();
        if (check && anew) {
            throw new UsageException("--check changes nothing: give it without --anew");
        }
        if (check) {
            return compare();
        }
        if (given.hasMatchedOption("--from") || given.hasMatchedOption("--until")) {
            throw new UsageException("--from and --until say what to --check; without it, all is summed up");
        }
        long lines = options.order(desk -> desk.sumUp(anew));
        spec.commandLine()
                .getOut()
                .println(look.json() ? JsonText.pretty(JsonOut.object("lines", lines)) : added(lines));
        return ExitCode.OK;
    }

    private static String added(long lines) {
        if (lines == 0) {
            return "nothing came into the ledger since it was last summed up";
        }
        return lines == 1 ? "1 line was summed up" : lines + " lines were summed up";
    }

    private int compare() {
        Seen found = options.ask(at -> {
            PeriodOptions.Period asked = period.upTo(at.history().now(), look.viewerZone());
            return at.sumsChecked(asked.from(), asked.until());
        });
        PrintWriter out = spec.commandLine().getOut();
        List<Seen> wrong = found.list("wrong");
        if (look.json()) {
            out.println(JsonText.pretty(found.whole()));
        } else {
            print(found.instant("from"), found.instant("until"), wrong, out);
        }
        return wrong.isEmpty() ? ExitCode.OK : ExitCode.NOT_FOUND;
    }

    private void print(Instant from, Instant until, List<Seen> wrong, PrintWriter out) {
        if (wrong.isEmpty()) {
            out.println("from " + Times.withOffset(from, look.viewerZone()) + " until "
                    + Times.withOffset(until, look.viewerZone()) + ", the sums are those of the lines");
            return;
        }
        Table table = new Table(look)
                .column("JOB")
                .fold()
                .column("FROM")
                .numbers("IN SUMS")
                .numbers("IN LINES");
        wrong.stream()
                .limit(MOST_SHOWN)
                .forEach(each -> table.row(
                        each.text("job"),
                        Times.withOffset(each.instant("from"), look.viewerZone()),
                        each.number("inSums"),
                        each.number("inLines")));
        table.lines().forEach(out::println);
        if (wrong.size() > MOST_SHOWN) {
            out.println("and " + (wrong.size() - MOST_SHOWN) + " more (--format json lists them)");
        }
        out.println();
        Wrap.lines(
                        "the sums of these hours or days are not those of the lines: brume seal verify says whether lines were altered,"
                                + " brume roll-up --anew sums up again",
                        look.width(),
                        0)
                .forEach(out::println);
    }
}
