package dev.brume.cli;

import picocli.CommandLine.Command;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.ParameterException;
import picocli.CommandLine.Spec;

/** Which definitions of a source are put in force. */
@Command(
        name = "definitions",
        mixinStandardHelpOptions = true,
        description = "Goes back to older definitions of a source on purpose.",
        synopsisSubcommandLabel = "accept",
        subcommands = DefinitionsAcceptCommand.class,
        footerHeading = "%nExample:%n",
        footer = "  brume definitions accept api --because 'back to build 41'")
final class DefinitionsCommand implements Runnable {
    @Spec
    private CommandSpec spec;

    @Override
    public void run() {
        throw new ParameterException(spec.commandLine(), "expected accept");
    }
}
