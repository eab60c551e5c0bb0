using System.Linq.Expressions;
using Microsoft.EntityFrameworkCore.Metadata;
using Microsoft.EntityFrameworkCore.Metadata.Internal;

namespace ComeAboard.Storage;

/// <summary>What makes rows of other workspaces invisible, part of the model whichever way it was made.</summary>
internal static class TenantFilters
{
    /// <summary>Whether rows are seen only from within their workspace.</summary>
    public static bool IsFor(Type row) => row.IsAssignableTo(typeof(ITenantRow));

    /// <summary>Those rows of a type that are of the workspace a context has entered.</summary>
    /// <param name="row">The type of the rows.</param>
    /// <param name="context">What stands for the context; the mapper puts the one that asks in its place, by its type.</param>
    public static LambdaExpression Of(Type row, Expression context)
    {
        var parameter = Expression.Parameter(row, "row");
        var theirs = Expression.Property(parameter, nameof(ITenantRow.WorkspaceId));
        var entered = Expression.Property(context, nameof(ComeAboardContext.Workspace));
        return Expression.Lambda(Expression.Equal(theirs, entered), parameter);
    }

#pragma warning disable EF1001 // The mapper has no public place for filters in a model that was generated.
    /// <summary>Gives a generated model the filters that cannot be generated.</summary>
    public static void GiveTo<TContext>(RuntimeModel model)
        where TContext : ComeAboardContext
    {
        var context = Expression.Constant(null, typeof(TContext));
        foreach (var type in ((IModel)model).GetEntityTypes().Where(type => IsFor(type.ClrType)))
            ((RuntimeEntityType)type).AddAnnotation(
                CoreAnnotationNames.QueryFilter,
                new QueryFilterCollection([new RuntimeQueryFilter(null, Of(type.ClrType, context))])
            );
    }
#pragma warning restore EF1001
}
