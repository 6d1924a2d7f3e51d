"""The walks that come with the program, by the name they are asked for."""

from __future__ import annotations

from gaitwire.core.walk.card import GaitCard

_ALL = (
    GaitCard(),
    GaitCard(
        name="brisk", frames_a_step=9, stride=1.9, stance_share=0.58, clearance=0.035, heel_kick=0.13, heel_roll=24,
        bounce=0.017, bounce_phase=0.3, lean=5, back_twist=5, arm_swing=34, elbow_fold=38, elbow_swing=22, nod=1,
        gaze_height=2,
    ),
    GaitCard(
        name="weary", frames_a_step=16, stride=1.05, stance_share=0.66, clearance=0.012, heel_kick=0.05, heel_roll=6,
        toe_roll=40, scuff=0.25, sink=0.06, bounce=0.02, bounce_phase=0.27, surge=0.026, lean=9, back_curl=22,
        back_twist=2, sway=1.7, dwell=0.3, dwell_phase=0.05, arm_swing=9, shoulder_rest=9, elbow_fold=8, elbow_swing=3,
        arm_lag=0.1, gaze_height=-26, nod=4, nod_lag=0.1,
    ),
    GaitCard(
        name="proud", frames_a_step=14, stride=1.6, clearance=0.06, heel_kick=0.12, kick_at=0.26, lift_end=0.3,
        heel_roll=27, toe_roll=66, sink=0.008, bounce=0.02, bounce_phase=0.3, lean=-7, back_curl=-12, back_twist=6,
        dwell=0.25, dwell_phase=0.3, arm_swing=30, shoulder_rest=-10, elbow_fold=22, elbow_swing=6, gaze_height=14,
        nod=1, nod_lag=0.02,
    ),
    GaitCard(
        name="sneaking", frames_a_step=20, stride=1.35, stance_share=0.66, clearance=0.16, heel_kick=0.03,
        lift_start=0.6, lift_end=0.6,
        heel_roll=-16, toe_roll=46, sink=0.13, bounce=0.012, bounce_phase=0.25, lean=24, back_curl=26, back_twist=2,
        sway=0.6, dwell=0.3, dwell_phase=0.22, arm_swing=10, shoulder_rest=36, elbow_fold=82, elbow_swing=12,
        gaze_height=4, nod=3,
    ),
    GaitCard(
        name="limping", frames_a_step=13, stride=1.2, limp=0.75, limp_bounce=0.02, limp_phase=-0.28, sink=0.035, lean=6,
        back_curl=6, sway=1.8, arm_swing=14, elbow_fold=24, elbow_swing=6, gaze_height=-8, nod=4,
    ),
    GaitCard(
        name="heavy-laden", frames_a_step=15, stride=1.15, stance_share=0.67, clearance=0.02, heel_kick=0.06,
        heel_roll=9, toe_roll=48, sink=0.085, bounce=0.013, lean=19, back_curl=10, back_twist=1, sway=2.2, dwell=0.2,
        dwell_phase=0.08, arm_swing=6, shoulder_rest=18, elbow_fold=60, elbow_swing=2, gaze_height=6, nod=2,
    ),
    GaitCard(
        name="toddling", frames_a_step=7, stride=0.78, stance_share=0.62, clearance=0.07, heel_kick=0.05, heel_roll=-4,
        toe_roll=24, sink=0.045, bounce=0.02, bounce_phase=0.3, surge=0.008, lean=5, back_curl=-4, back_twist=9,
        sway=3.2, arm_swing=16, shoulder_rest=28, elbow_fold=64, elbow_swing=10, gaze_height=4, nod=5, nod_lag=0.02,
    ),
    GaitCard(
        name="shuffle", frames_a_step=15, stride=0.6, stance_share=0.7, clearance=0.0, heel_kick=0.015, heel_roll=-4,
        toe_roll=22, scuff=1.0, sink=0.06, bounce=0.008, surge=0.03, lean=16, back_curl=34, back_twist=1, sway=1.2,
        dwell=0.6, dwell_phase=0.1, arm_swing=5, shoulder_rest=12, elbow_fold=44, elbow_swing=2, gaze_height=-12, nod=3,
        limp=0.15,
    ),
    GaitCard(
        name="strut", frames_a_step=11, stride=1.25, stance_share=0.64, clearance=0.16, heel_kick=0.05, heel_roll=-6,
        toe_roll=34, lift_start=0.4, lift_end=0.45, sink=0.02, bounce=0.022, bounce_phase=0.29, surge=-0.02, lean=-3,
        back_curl=-6, back_twist=4, sway=3.0, dwell=0.15, dwell_phase=0.22, arm_swing=12, shoulder_rest=-14,
        elbow_fold=40, elbow_swing=4, gaze_height=3, nod=9, nod_rate=1, nod_lag=0.05,
    ),
    GaitCard(
        name="plod", frames_a_step=15, stride=1.15, stance_share=0.66, clearance=0.03, heel_kick=0.07, heel_roll=-4,
        toe_roll=34, sink=0.048, bounce=0.01, bounce_phase=0.29, sway=1.4, hip_turn=0.03, nod=7, nod_rate=1,
        nod_lag=0.3, gaze_height=-4, arm_swing=14, fore_phase=0.25, fore_lift=1.2, fore_sink=0.025,
    ),
    GaitCard(
        name="trot", frames_a_step=8, stride=1.75, stance_share=0.44, clearance=0.06, heel_kick=0.14, kick_at=0.3,
        heel_roll=-4, toe_roll=44, flat_from=0.2, heel_off=0.18, roll_sharpness=3.6, swing_start=0.4, swing_end=0.24,
        sink=0.04, bounce=0.028, hip_ahead=0.16, hip_turn=0.03, nod=3, gaze_height=5, lean=4, arm_swing=30,
        elbow_fold=50, fore_phase=0.5, fore_lift=1.3,
    ),
    GaitCard(
        name="jog", frames_a_step=9, stride=1.75, stance_share=0.44, clearance=0.04, heel_kick=0.18, kick_at=0.33,
        heel_roll=6, toe_roll=58, flat_from=0.2, heel_off=0.16, roll_sharpness=3.6, swing_start=0.5, swing_end=0.22,
        sink=0.045, bounce=0.035, hip_ahead=0.13, surge=0.006, lean=6, back_twist=6, arm_swing=36, elbow_fold=78,
        elbow_swing=18, nod=2,
    ),
    GaitCard(
        name="run", frames_a_step=8, stride=2.5, stance_share=0.36, clearance=0.05, heel_kick=0.19, kick_at=0.33,
        heel_roll=8, toe_roll=62, flat_from=0.2, heel_off=0.14, roll_sharpness=3.6, swing_start=0.5, swing_end=0.22,
        sink=0.045, bounce=0.032, hip_ahead=0.115, surge=0.006, lean=12, back_twist=8, arm_swing=52, elbow_fold=88,
        elbow_swing=22, nod=2, gaze_height=4,
    ),
)  # fmt: skip

CHARACTERS = {card.name: card for card in _ALL}
"""Every shipped card by its name; the first is the plain one."""
