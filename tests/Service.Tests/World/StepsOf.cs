using ComeAboard.Client.Departures;

namespace ComeAboard.Service.Tests.World;

/// <summary>Steps of departures, for laying a plan beside what was done.</summary>
public static class StepsOf
{
    /// <summary>A step as it was planned, without how far it has come.</summary>
    public static DepartureStepView Planned(DepartureStepView step) =>
        step with
        {
            State = "due",
            At = null,
            Answer = "",
            Since = null,
            Tries = 0,
            By = "",
        };
}
