package dev.brume.definitions;

import dev.brume.BrumeException;
import java.util.List;
import java.util.stream.Collectors;

/**
 * Thrown when a definition file cannot be used; it carries everything that is wrong with it, by place.
 *
 * @since 0.1.0
 */
public final class DefinitionsException extends BrumeException {
    private static final long serialVersionUID = 1L;

    private final transient List<DefinitionProblem> problems;

    DefinitionsException(List<DefinitionProblem> problems) {
        super(problems.stream().map(DefinitionProblem::toString).collect(Collectors.joining("\n")));
        this.problems = List.copyOf(problems);
    }

    /** {@return everything that is wrong, by place} */
    public List<DefinitionProblem> problems() {
        return problems == null ? List.of() : problems;
    }
}
