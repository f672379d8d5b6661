package dev.brume.cli;

import dev.brume.Brume;
import java.io.PrintWriter;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

/** Serves a database over HTTP, and runs nothing. */
@Command(
        name = "console",
        mixinStandardHelpOptions = true,
        description =
                "Serves what is on record, and takes orders, over HTTP until it is stopped. It runs no jobs: instances do. On a"
                        + " terminal it prints a link that signs in once.",
        footerHeading = "%nExamples:%n",
        footer = {
            "  brume console --data brume-demo",
            "  brume console --http 127.0.0.1:0 --database \"jdbc:postgresql://db/harbour?user=brume\""
        })
final class ConsoleCommand implements Callable<Integer> {
    private static final int CONNECTIONS = 8;

    @Option(
            names = "--http",
            paramLabel = "HOST:PORT",
            defaultValue = "127.0.0.1:8480",
            description = "Where to serve; port 0 takes any that is free. Default: ${DEFAULT-VALUE}.")
    private String http;

    @Mixin
    private HttpOptions options;

    @Mixin
    private StoreOptions store;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() throws InterruptedException {
        HttpOptions.Place place = HttpOptions.Place.parse("--http", http);
        try (Stopping stopping = Stopping.fromNow();
                StoreOptions.OpenStore open = store.stay(CONNECTIONS);
                Brume brume =
                        Brume.on(open.store()).withoutLog().instance("console").build();
                HttpOptions.Serving serving = options.serve(brume, place, store.folder())) {
            PrintWriter err = spec.commandLine().getErr();
            HttpLink.tell(serving, spec.commandLine().getOut());
            stopping.await();
            stopping.isInOrder();
            err.println("brume: stopping");
        }
        return ExitCode.OK;
    }
}
