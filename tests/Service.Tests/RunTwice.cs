using System.Reflection;
using System.Reflection.Emit;
using System.Runtime.CompilerServices;
using ComeAboard.Service.Workspaces;
using Xunit;

namespace ComeAboard.Service.Tests;

/// <summary>
/// A change may run twice: alone, when the group it went with failed. So it leaves nothing behind in what it was given – it
/// sets no variable from outside, and is given nothing that can be added to.
/// </summary>
public sealed class RunTwice
{
    private static readonly Dictionary<short, OpCode> Codes = typeof(OpCodes)
        .GetFields(BindingFlags.Public | BindingFlags.Static)
        .Select(field => (OpCode)field.GetValue(null)!)
        .ToDictionary(code => code.Value);

    private static readonly Type[] Growing = [typeof(List<>), typeof(Dictionary<,>), typeof(HashSet<>)];

    private static readonly Type[] All = typeof(WorkspaceWrite).Assembly.GetTypes();

    /// <summary>What changes are given: the variables from outside that a lambda over a write holds.</summary>
    private static readonly HashSet<Type> Given =
    [
        .. All.Where(type =>
            type.IsDefined(typeof(CompilerGeneratedAttribute))
            && type.Name.Contains("DisplayClass", StringComparison.Ordinal)
            && Methods(type)
                .Any(method => method.GetParameters().Any(p => p.ParameterType == typeof(WorkspaceWrite)))
        ),
    ];

    [Fact]
    public void A_change_sets_no_variable_from_outside()
    {
        Assert.NotEmpty(Given);
        Assert.Empty(All.SelectMany(Methods).SelectMany(SetFromWithin));
    }

    [Fact]
    public void A_change_is_given_nothing_that_can_be_added_to() =>
        Assert.Empty(
            Given
                .SelectMany(type => type.GetFields())
                .Where(field =>
                    field.FieldType.IsGenericType
                    && Growing.Contains(field.FieldType.GetGenericTypeDefinition())
                )
                .Select(field => $"{field.DeclaringType!.DeclaringType?.Name}: {field.Name}")
        );

    /// <summary>The variables of changes that a method sets without having made them: it runs within the change.</summary>
    private static IEnumerable<string> SetFromWithin(MethodBase method)
    {
        if (method.GetMethodBody()?.GetILAsByteArray() is not { } body)
            return [];
        var (made, set) = (new HashSet<Type>(), new List<FieldInfo>());
        for (var at = 0; at < body.Length; )
        {
            var code = body[at] == 0xFE ? Codes[(short)(0xFE00 | body[at + 1])] : Codes[body[at]];
            at += code.Size;
            if (code == OpCodes.Newobj)
                made.Add(
                    Plain(
                        method
                            .Module.ResolveMethod(
                                BitConverter.ToInt32(body, at),
                                method.DeclaringType!.GetGenericArguments(),
                                method.IsGenericMethod ? method.GetGenericArguments() : []
                            )!
                            .DeclaringType!
                    )
                );
            else if (code == OpCodes.Stfld)
                set.Add(
                    method.Module.ResolveField(
                        BitConverter.ToInt32(body, at),
                        method.DeclaringType!.GetGenericArguments(),
                        method.IsGenericMethod ? method.GetGenericArguments() : []
                    )!
                );
            at += code.OperandType switch
            {
                OperandType.InlineNone => 0,
                OperandType.ShortInlineBrTarget or OperandType.ShortInlineI or OperandType.ShortInlineVar =>
                    1,
                OperandType.InlineVar => 2,
                OperandType.InlineI8 or OperandType.InlineR => 8,
                OperandType.InlineSwitch => 4 + 4 * BitConverter.ToInt32(body, at),
                _ => 4,
            };
        }
        // What the compiler keeps for itself is a lambda made once.
        return set.Where(field =>
                !field.Name.StartsWith("<>9", StringComparison.Ordinal)
                && Given.Contains(Plain(field.DeclaringType!))
                && !made.Contains(Plain(field.DeclaringType!))
            )
            .Select(field => $"{field.DeclaringType!.DeclaringType?.Name}: {field.Name}");
    }

    private static Type Plain(Type type) => type.IsGenericType ? type.GetGenericTypeDefinition() : type;

    private static IEnumerable<MethodBase> Methods(Type type) =>
        type.GetMembers(
                BindingFlags.Public
                    | BindingFlags.NonPublic
                    | BindingFlags.Instance
                    | BindingFlags.Static
                    | BindingFlags.DeclaredOnly
            )
            .OfType<MethodBase>();
}
