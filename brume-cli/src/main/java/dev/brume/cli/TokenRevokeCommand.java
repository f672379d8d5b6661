package dev.brume.cli;

import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Parameters;

/** Revokes a token. */
@Command(
        name = "revoke",
        mixinStandardHelpOptions = true,
        description =
                "Revokes a token: within a second it lets nobody in any more, on every instance, and whoever signed in by it, or"
                        + " follows events, is out.")
final class TokenRevokeCommand implements Callable<Integer> {
    @Parameters(paramLabel = "NAME", description = "The token.")
    private String name;

    @Mixin
    private OrderOptions options;

    @Mixin
    private OrderReport report;

    @Override
    public Integer call() {
        boolean revoked = options.order(desk -> desk.revokeToken(name));
        return report.done(
                revoked ? "token " + name + " is revoked" : "token " + name + " let nobody in any more already",
                "token",
                name,
                "revoked",
                revoked);
    }
}
