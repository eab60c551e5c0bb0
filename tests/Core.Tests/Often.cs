namespace ComeAboard.Core.Tests;

/// <summary>How often a property is looked at where the library's usual number is not enough, or too much.</summary>
internal static class Often
{
    /// <summary>So many times; <c>CsCheck_Iter</c> says how many for all properties.</summary>
    public static int Times(int usual) =>
        int.TryParse(Environment.GetEnvironmentVariable("CsCheck_Iter"), out var all) ? all : usual;
}
