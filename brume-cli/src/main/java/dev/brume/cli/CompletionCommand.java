package dev.brume.cli;

import java.util.concurrent.Callable;
import picocli.AutoComplete;
import picocli.CommandLine.Command;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Spec;

/** Prints what completes the command in a shell. */
@Command(
        name = "completion",
        mixinStandardHelpOptions = true,
        description = "Prints a script that lets bash or zsh complete commands and options.",
        footerHeading = "%nExamples:%n",
        footer = {
            "  source <(brume completion)",
            "  brume completion > /etc/bash_completion.d/brume",
            "  autoload -U +X bashcompinit && bashcompinit; source <(brume completion)     (zsh)"
        })
final class CompletionCommand implements Callable<Integer> {
    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() {
        spec.commandLine().getOut().print(AutoComplete.bash("brume", BrumeCommand.whole()));
        spec.commandLine().getOut().flush();
        return ExitCode.OK;
    }
}
