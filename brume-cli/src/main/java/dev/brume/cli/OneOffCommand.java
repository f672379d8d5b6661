package dev.brume.cli;

import picocli.CommandLine.Command;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.ParameterException;
import picocli.CommandLine.Spec;

/** Single runs, each ordered under a key. */
@Command(
        name = "one-off",
        mixinStandardHelpOptions = true,
        description = "Orders, moves, drops or lists one-offs: single runs of a job, each under a key of yours.",
        synopsisSubcommandLabel = "add|move|drop|list",
        subcommands = {OneOffAddCommand.class, OneOffMoveCommand.class, OneOffDropCommand.class, OneOffListCommand.class
        },
        footerHeading = "%nExamples:%n",
        footer = {
            "  brume one-off add bridge-closure regatta-2027 --at 2027-06-12T09:00 --zone America/Halifax",
            "  brume one-off list bridge-closure"
        })
final class OneOffCommand implements Runnable {
    @Spec
    private CommandSpec spec;

    @Override
    public void run() {
        throw new ParameterException(spec.commandLine(), "expected one of add, move, drop, list");
    }
}
