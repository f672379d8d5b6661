package dev.brume.spring.test;

import java.util.List;
import org.jspecify.annotations.Nullable;
import org.springframework.core.annotation.AnnotatedElementUtils;
import org.springframework.test.context.ContextConfigurationAttributes;
import org.springframework.test.context.ContextCustomizer;
import org.springframework.test.context.ContextCustomizerFactory;

/** Sees whether a test is to go by virtual time. Found by Spring. */
final class VirtualBrumeCustomizerFactory implements ContextCustomizerFactory {
    VirtualBrumeCustomizerFactory() {}

    @Override
    public @Nullable ContextCustomizer createContextCustomizer(
            Class<?> testClass, List<ContextConfigurationAttributes> attributes) {
        WithVirtualBrume asked = AnnotatedElementUtils.findMergedAnnotation(testClass, WithVirtualBrume.class);
        return asked == null
                ? null
                : new VirtualBrumeCustomizer(
                        asked.beginning(),
                        asked.collectOneOffs(),
                        AnnotatedElementUtils.hasAnnotation(testClass, BrumeTest.class));
    }
}
