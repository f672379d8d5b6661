package dev.brume.cli;

import dev.brume.definitions.DefinitionFile;
import dev.brume.jdbc.JdbcStore;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** Prints schemas. */
@Command(
        name = "schema",
        mixinStandardHelpOptions = true,
        description = "Prints the JSON Schema of definition files, or the SQL that creates the tables.",
        footerHeading = "%nExamples:%n",
        footer = {"  brume schema definitions > brume.schema.json", "  brume schema postgresql | psql mydb"})
final class SchemaCommand implements Callable<Integer> {
    @Parameters(paramLabel = "definitions|postgresql|mariadb|h2", description = "Which schema.")
    private String which;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() {
        String text;
        try {
            text = which.equals("definitions") ? DefinitionFile.schema() : JdbcStore.schemaScript(which);
        } catch (IllegalArgumentException e) {
            throw new UsageException("schema '" + which + "' is not one of definitions, postgresql, mariadb, h2");
        }
        spec.commandLine().getOut().print(text);
        spec.commandLine().getOut().flush();
        return ExitCode.OK;
    }
}
