package dev.brume.spring.test;

import dev.brume.spring.Handles;
import org.jspecify.annotations.Nullable;
import org.springframework.boot.context.TypeExcludeFilter;
import org.springframework.core.type.classreading.MetadataReader;
import org.springframework.core.type.classreading.MetadataReaderFactory;

/** Leaves out of the search for components whatever handles no job. */
final class JobsAlone extends TypeExcludeFilter {
    @Override
    public boolean match(MetadataReader reader, MetadataReaderFactory factory) {
        var type = reader.getAnnotationMetadata();
        return !type.hasAnnotation(Handles.class.getName()) && !type.hasAnnotatedMethods(Handles.class.getName());
    }

    @Override
    public boolean equals(@Nullable Object other) {
        return other instanceof JobsAlone;
    }

    @Override
    public int hashCode() {
        return JobsAlone.class.hashCode();
    }
}
