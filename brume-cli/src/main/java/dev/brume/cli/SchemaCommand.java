package dev.brume.cli;

import dev.brume.definitions.DefinitionFile;
import dev.brume.definitions.JsonText;
import dev.brume.definitions.Views;
import dev.brume.jdbc.JdbcStore;
import dev.brume.schedule.Nearest;
import java.util.List;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** Prints schemas. */
@Command(
        name = "schema",
        mixinStandardHelpOptions = true,
        description =
                "Prints the JSON Schema of definition files, or of what commands print for programs, or the SQL that creates the"
                        + " tables, or that gives roles their rights on them.",
        footerHeading = "%nExamples:%n",
        footer = {
            "  brume schema definitions > brume.schema.json",
            "  brume schema output --of runs > runs.schema.json",
            "  brume schema postgresql | psql mydb",
            "  brume schema postgresql --application harbour --retention archivist | psql mydb",
            "  brume schema postgresql --application harbour --definer office --retention archivist | psql mydb"
        })
final class SchemaCommand implements Callable<Integer> {
    @Parameters(paramLabel = "definitions|output|postgresql|mariadb|h2", description = "Which schema.")
    private String which;

    @Option(
            names = "--of",
            paramLabel = "COMMAND",
            description =
                    "Print the schema of what this command prints with --format json, such as runs or 'seal head'.")
    private @Nullable String of;

    @Option(
            names = "--application",
            paramLabel = "ROLE",
            description = "Print the rights of roles: of the one that works, and may only add to the ledger.")
    private @Nullable String application;

    @Option(
            names = "--retention",
            paramLabel = "ROLE",
            description = "The role that alone may remove lines from the ledger (brume keep --apply).")
    private @Nullable String retention;

    @Option(
            names = "--definer",
            paramLabel = "ROLE",
            description =
                    "A role that alone may define jobs; the application's then runs, plans and orders what is defined.")
    private @Nullable String definer;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() {
        spec.commandLine().getOut().print(text());
        spec.commandLine().getOut().flush();
        return ExitCode.OK;
    }

    private String text() {
        if (application != null && retention != null) {
            return roles(application, retention);
        }
        if (application != null || retention != null || definer != null) {
            throw new UsageException("--application and --retention go together: a role for each");
        }
        try {
            return switch (which) {
                case "definitions" -> DefinitionFile.schema();
                case "output" -> output();
                default -> JdbcStore.schemaScript(which);
            };
        } catch (IllegalArgumentException e) {
            throw new UsageException(
                    "schema '" + which + "' is not one of definitions, output, postgresql, mariadb, h2");
        }
    }

    private String output() {
        List<String> known = Views.outputs();
        if (of == null) {
            throw new UsageException("schema output: --of says of which command: " + String.join(", ", known));
        }
        if (!known.contains(of)) {
            throw new UsageException("--of '" + of + "' is not one of " + String.join(", ", known)
                    + Nearest.to(of, known)
                            .map(near -> "; did you mean " + near + "?")
                            .orElse(""));
        }
        return JsonText.pretty(Views.schema(of)) + "\n";
    }

    private String roles(String worker, String remover) {
        try {
            return definer == null
                    ? JdbcStore.rolesScript(which, worker, remover)
                    : JdbcStore.rolesScript(which, worker, definer, remover);
        } catch (IllegalArgumentException e) {
            throw new UsageException(e);
        }
    }
}
