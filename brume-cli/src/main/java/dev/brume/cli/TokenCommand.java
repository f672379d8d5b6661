package dev.brume.cli;

import picocli.CommandLine.Command;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.ParameterException;
import picocli.CommandLine.Spec;

/** Tokens, by which people and programs are let in over HTTP. */
@Command(
        name = "token",
        mixinStandardHelpOptions = true,
        description =
                "Makes, lists or revokes tokens: whoever shows one is let in over HTTP, and may do there what it lets. Of a token"
                        + " the database holds a digest alone.",
        synopsisSubcommandLabel = "add|list|revoke",
        subcommands = {TokenAddCommand.class, TokenListCommand.class, TokenRevokeCommand.class},
        footerHeading = "%nExamples:%n",
        footer = {
            "  brume token add quay-bot --role operator --namespace harbour --for 90d",
            "  brume token list",
            "  brume token revoke quay-bot --because 'the robot is sold'"
        })
final class TokenCommand implements Runnable {
    @Spec
    private CommandSpec spec;

    @Override
    public void run() {
        throw new ParameterException(spec.commandLine(), "expected one of add, list, revoke");
    }
}
