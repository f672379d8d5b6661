package dev.brume.cli;

import java.util.Optional;
import picocli.CommandLine.IVersionProvider;

/** Says which version this is. */
final class Version implements IVersionProvider {
    @Override
    public String[] getVersion() {
        return new String[] {text()};
    }

    static String text() {
        String version = Optional.ofNullable(Main.class.getPackage().getImplementationVersion())
                .orElse("development");
        return "brume " + version + ", Java " + Runtime.version().feature();
    }
}
