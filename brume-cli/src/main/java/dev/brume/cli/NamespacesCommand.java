package dev.brume.cli;

import dev.brume.definitions.JsonText;
import dev.brume.definitions.Views;
import dev.brume.history.NamespaceView;
import java.io.PrintWriter;
import java.util.List;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Spec;

/** Lists namespaces. */
@Command(
        name = "namespaces",
        mixinStandardHelpOptions = true,
        description =
                "Lists the namespaces that have jobs or an allowance: how many jobs, how many of them paused, what they may have.",
        footerHeading = "%nExamples:%n",
        footer = {
            "  brume namespaces",
            "  brume jobs --namespace ferry --name 'board*'",
            "  brume pause --namespace ferry",
            "  brume drop --namespace ferry"
        })
final class NamespacesCommand implements Callable<Integer> {
    @Mixin
    private WhereOptions options;

    @Mixin
    private LookOptions look;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() {
        List<NamespaceView> namespaces = options.look(history -> history.namespaces());
        PrintWriter out = spec.commandLine().getOut();
        if (look.json()) {
            out.println(
                    JsonText.pretty(namespaces.stream().map(Views::namespace).toList()));
            return ExitCode.OK;
        }
        if (namespaces.isEmpty()) {
            out.println("there are no jobs yet");
            return ExitCode.OK;
        }
        Table table = new Table(look)
                .column("NAMESPACE")
                .column("JOBS")
                .column("PAUSED")
                .fold()
                .column("MAY HAVE");
        namespaces.forEach(view -> table.row(
                view.name(),
                view.jobs(),
                view.paused(),
                view.allowance().map(row -> row.allowance().toString()).orElse("anything")));
        table.lines().forEach(out::println);
        return ExitCode.OK;
    }
}
