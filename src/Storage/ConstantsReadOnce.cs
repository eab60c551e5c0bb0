using System.Linq.Expressions;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Query;
using Microsoft.EntityFrameworkCore.Storage;

namespace ComeAboard.Storage;

// The mapper says of its own that it may change; the scenes of every question there is would tell.
#pragma warning disable EF9100

/// <summary>
/// What a question is put together from and never changes, the mapper reads by a piece of code that runs once. It would compile each;
/// here they are walked through, which takes a fraction of the time, but for those that leave code behind for every answer.
/// </summary>
internal sealed class ConstantsReadOnce(
    ShapedQueryCompilingExpressionVisitorDependencies dependencies,
    RelationalShapedQueryCompilingExpressionVisitorDependencies relational,
    RelationalCommandBuilderDependencies commands
) : RelationalLiftableConstantProcessor(dependencies, relational, commands)
{
    private readonly MaterializerLiftableConstantContext _context = new(dependencies);

    /// <inheritdoc/>
    protected override ConstantExpression InlineConstant(LiftableConstantExpression liftableConstant) =>
        liftableConstant.ResolverExpression
            is Expression<Func<MaterializerLiftableConstantContext, object>> once
        && !Code.IsIn(once.Body)
            ? Expression.Constant(once.Compile(preferInterpretation: true)(_context), liftableConstant.Type)
            : base.InlineConstant(liftableConstant);

    private sealed class Code : ExpressionVisitor
    {
        private bool _found;

        public static bool IsIn(Expression body)
        {
            var code = new Code();
            code.Visit(body);
            return code._found;
        }

        protected override Expression VisitLambda<T>(Expression<T> node)
        {
            _found = true;
            return node;
        }
    }
}

internal static class ConstantsReadOnceOptions
{
    public static DbContextOptionsBuilder<T> ReadConstantsOnce<T>(this DbContextOptionsBuilder<T> options)
        where T : DbContext => options.ReplaceService<ILiftableConstantProcessor, ConstantsReadOnce>();
}
