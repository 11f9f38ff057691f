//! The program: reads the command line, opens what it needs, hands over.

mod cli;
mod commands;

use clap::Parser;
use std::io::IsTerminal;
use std::process::ExitCode;

fn main() -> ExitCode {
    tracing_subscriber::fmt()
        .with_writer(std::io::stderr)
        .with_ansi(std::io::stderr().is_terminal())
        .with_env_filter(
            tracing_subscriber::EnvFilter::try_from_env("LAKE_HOUR_LOG")
                .unwrap_or_else(|_| "warn,lake_hour_web=info".into()),
        )
        .init();
    let done = match cli::Cli::parse().command {
        cli::Command::Demo { listen } => commands::serve::demo(listen),
        cli::Command::Serve { db, listen, open, share, share_on, plain } => {
            let share = share.then_some(commands::serve::Sharing { on: share_on, plain });
            commands::serve::serve(db, listen, open, share)
        }
        cli::Command::Backup { db, to } => commands::copies::back_up(db, &to),
        cli::Command::Restore { db, from } => commands::copies::restore(db, &from),
        cli::Command::Completions { shell } => commands::completions(shell),
        cli::Command::Man => commands::man(),
        cli::Command::Evaluate { file, format, working } => {
            commands::evaluate::evaluate(&file, format, working)
        }
        cli::Command::Licenses => commands::print(include_str!("../THIRD-PARTY-NOTICES.txt")),
        cli::Command::StandIn { plan, speed, seed, truth, listen } => {
            commands::stand_in::stand_in(plan.as_deref(), (speed, seed), truth.as_deref(), listen)
        }
        cli::Command::Schema { of } => commands::schema(of),
    };
    match done {
        Ok(()) => ExitCode::SUCCESS,
        Err(commands::Failed::Input(lines)) => {
            for line in lines {
                commands::complain(&line);
            }
            ExitCode::from(2)
        }
        Err(commands::Failed::Run(error)) => {
            commands::complain(&format!("lake-hour: {error:#}"));
            ExitCode::FAILURE
        }
    }
}
