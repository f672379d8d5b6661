package dev.brume.spring;

import dev.brume.DefinitionSet;
import dev.brume.definitions.DefinitionFile;
import dev.brume.definitions.DefinitionsException;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.Optional;
import org.springframework.core.io.Resource;

/** Reads definition files of the application; apart, since what reads them may not be there. */
final class DefinitionResources {
    private DefinitionResources() {}

    static DefinitionSet read(Resource resource) {
        String name = resource.getDescription();
        String source = Optional.ofNullable(resource.getFilename()).orElse(name);
        try {
            if (resource.isFile()) {
                return DefinitionFile.read(resource.getFile().toPath()).definitions();
            }
            String text = resource.getContentAsString(StandardCharsets.UTF_8);
            return DefinitionFile.parse(name, source, text).definitions();
        } catch (DefinitionsException e) {
            throw new SetupException(String.valueOf(e.getMessage()), "correct " + source);
        } catch (IOException e) {
            throw new SetupException(name + " cannot be read: " + e.getMessage(), "correct brume.definitions");
        }
    }
}
