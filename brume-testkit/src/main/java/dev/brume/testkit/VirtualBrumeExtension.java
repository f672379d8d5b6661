package dev.brume.testkit;

import java.time.Instant;
import java.util.Optional;
import org.junit.jupiter.api.extension.ExtensionContext;
import org.junit.jupiter.api.extension.ParameterContext;
import org.junit.jupiter.api.extension.ParameterResolver;
import org.junit.platform.commons.support.AnnotationSupport;

/**
 * Gives each JUnit test a {@link VirtualBrume} of its own where it has a parameter of that type, and closes it afterwards:
 * {@code @ExtendWith(VirtualBrumeExtension.class)}. It begins at {@link BeginningAt}, or at {@value #BEGIN}.
 *
 * @since 0.1.0
 */
public final class VirtualBrumeExtension implements ParameterResolver {
    /** When a test begins that says nothing about it. */
    public static final String BEGIN = "2026-01-01T00:00:00Z";

    private static final ExtensionContext.Namespace NAMESPACE =
            ExtensionContext.Namespace.create(VirtualBrumeExtension.class);

    /** Called by JUnit. */
    public VirtualBrumeExtension() {}

    @Override
    public boolean supportsParameter(ParameterContext parameter, ExtensionContext test) {
        return parameter.getParameter().getType() == VirtualBrume.class;
    }

    @Override
    public Object resolveParameter(ParameterContext parameter, ExtensionContext test) {
        // What is kept there and can be closed is closed with the test.
        return test.getStore(NAMESPACE).getOrComputeIfAbsent(VirtualBrume.class, key -> open(test), VirtualBrume.class);
    }

    private static VirtualBrume open(ExtensionContext test) {
        Optional<BeginningAt> stated = AnnotationSupport.findAnnotation(test.getElement(), BeginningAt.class)
                .or(() -> AnnotationSupport.findAnnotation(test.getTestClass(), BeginningAt.class));
        VirtualBrume.Builder builder = VirtualBrume.beginning(
                Instant.parse(stated.map(BeginningAt::value).orElse(BEGIN)));
        if (stated.filter(BeginningAt::collectOneOffs).isPresent()) {
            builder.collectOneOffs();
        }
        return builder.build();
    }
}
