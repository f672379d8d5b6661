package dev.brume.cli;

import dev.brume.Grant;
import dev.brume.NewToken;
import dev.brume.Role;
import dev.brume.definitions.JsonText;
import java.io.PrintWriter;
import java.time.Duration;
import java.time.ZoneId;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** Makes a token. */
@Command(
        name = "add",
        mixinStandardHelpOptions = true,
        description =
                "Makes a token and prints its secret, alone on standard output, this once. A viewer looks; an operator orders runs,"
                        + " one-offs, pauses and cancels besides; an author defines and drops; an admin rules over tokens,"
                        + " retention, drains and seals.")
final class TokenAddCommand implements Callable<Integer> {
    @Parameters(paramLabel = "NAME", description = "What it is called, and who its holder is in the change log.")
    private String name;

    @Option(
            names = "--role",
            required = true,
            paramLabel = "viewer|operator|author|admin",
            description = "What it lets do.")
    private Role role;

    @Option(
            names = "--namespace",
            paramLabel = "NAMESPACE",
            description = "Where; everywhere unless given. May be given several times.")
    private List<String> namespaces = List.of();

    @Option(names = "--for", paramLabel = "DURATION", description = "For how long, such as 90d; for ever unless given.")
    private @Nullable Duration length;

    @Mixin
    private OrderOptions options;

    @Mixin
    private FormatOption format;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() {
        Grant grant = grant();
        NewToken token = options.orderOrMake(desk -> desk.addToken(name, grant, Optional.ofNullable(length)));
        PrintWriter out = spec.commandLine().getOut();
        if (format.json()) {
            out.println(JsonText.pretty(JsonOut.object(
                    "token", token.name(),
                    "role", token.grant().role(),
                    "namespaces", grant.isEverywhere() ? null : List.copyOf(grant.namespaces()),
                    "until", token.until(),
                    "secret", token.secret())));
            return ExitCode.OK;
        }
        spec.commandLine()
                .getErr()
                .println(token.name() + " is " + token.grant()
                        + token.until()
                                .map(end -> ", until " + Times.withOffset(end, ZoneId.systemDefault()))
                                .orElse("")
                        + "; its secret is told this once:");
        out.println(token.secret());
        return ExitCode.OK;
    }

    private Grant grant() {
        try {
            return namespaces.isEmpty() ? Grant.everywhere(role) : Grant.within(namespaces, role);
        } catch (IllegalArgumentException e) {
            throw new UsageException(e);
        }
    }
}
